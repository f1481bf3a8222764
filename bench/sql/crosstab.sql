-- crosstab.csv of --down month --count "sum(amount) as sales, customers, orders", said in SQL over the table `lines`.
-- The date of an order is the earliest of its lines.
CREATE TEMP TABLE line AS
  SELECT min(order_date) OVER (PARTITION BY customer_id, order_id) AS date, customer_id, order_id,
         CAST(quantity AS INTEGER) * CAST(round(unit_price * 100) AS INTEGER) AS cents,
         CAST(quantity AS INTEGER) < 0 OR CAST(quantity AS INTEGER) * unit_price < 0 AS is_return
  FROM lines;
SELECT substr(date, 1, 7) AS month, printf('%.2f', sum(cents) / 100.0) AS sales,
       count(DISTINCT customer_id) AS customers,
       count(DISTINCT CASE WHEN NOT is_return THEN customer_id || '|' || order_id END) AS orders
FROM line GROUP BY 1
UNION ALL
SELECT 'Total', printf('%.2f', sum(cents) / 100.0), count(DISTINCT customer_id),
       count(DISTINCT CASE WHEN NOT is_return THEN customer_id || '|' || order_id END)
FROM line ORDER BY 1;
