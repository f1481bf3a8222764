-- distinct.csv, --count product_id --per customer_id, said in SQL; see first.sql for the table.
SELECT customer_id, count(DISTINCT product_id) AS "distinct", count(DISTINCT order_id) AS orders, count(*) AS lines
FROM lines
WHERE NOT (CAST(quantity AS INTEGER) < 0 OR CAST(quantity AS INTEGER) * unit_price < 0)
GROUP BY customer_id
ORDER BY 2 DESC, length(customer_id), customer_id;
