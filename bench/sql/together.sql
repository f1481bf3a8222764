-- together.csv, its first columns, --support ":support baskets" --size 2 --largest 2, said in SQL; see first.sql for the table.
WITH items AS MATERIALIZED (
  SELECT DISTINCT customer_id, order_id, product_id FROM lines
  WHERE NOT (CAST(quantity AS INTEGER) < 0 OR CAST(quantity AS INTEGER) * unit_price < 0)),
counts AS (SELECT product_id, count(*) AS baskets FROM items GROUP BY product_id),
pairs AS (
  SELECT x.product_id AS product_a, y.product_id AS product_b, count(*) AS both
  FROM items AS x JOIN items AS y ON x.customer_id = y.customer_id AND x.order_id = y.order_id
       AND (length(x.product_id), x.product_id) < (length(y.product_id), y.product_id)
  GROUP BY 1, 2)
SELECT product_a, product_b, both, a.baskets AS a, b.baskets AS b
FROM pairs JOIN counts AS a ON a.product_id = product_a JOIN counts AS b ON b.product_id = product_b
WHERE both >= :support
ORDER BY both DESC, length(product_a), product_a, length(product_b), product_b;
