-- sequence-next.csv, its first columns without names, --support ":support customers", said in SQL; see first.sql for the table.
WITH bought AS MATERIALIZED (
  SELECT customer_id, product_id, min(order_date) AS day FROM lines
  WHERE NOT (CAST(quantity AS INTEGER) < 0 OR CAST(quantity AS INTEGER) * unit_price < 0)
  GROUP BY customer_id, product_id),
counts AS (SELECT product_id, count(*) AS customers FROM bought GROUP BY product_id),
steps AS (
  SELECT x.product_id AS earlier, y.product_id AS later, count(*) AS customers_both
  FROM bought AS x JOIN bought AS y ON x.customer_id = y.customer_id AND x.day < y.day
  GROUP BY 1, 2)
SELECT earlier, later, customers AS customers_earlier, customers_both
FROM steps JOIN counts ON counts.product_id = earlier
WHERE customers_both >= :support;
