-- frequency.csv said in SQL, --within :window (NULL for all orders); see first.sql for the table.
WITH line AS (
  SELECT customer_id, order_id, order_date,
         CAST(quantity AS INTEGER) < 0 OR CAST(quantity AS INTEGER) * unit_price < 0 AS is_return
  FROM lines),
dated AS MATERIALIZED (
  SELECT customer_id, order_id, CAST(julianday(min(order_date)) AS INTEGER) AS day, min(is_return) AS only_returns
  FROM line GROUP BY customer_id, order_id),
placed AS (
  SELECT customer_id, day, min(day) OVER (PARTITION BY customer_id) AS first_day FROM dated WHERE only_returns = 0),
counted AS (
  SELECT customer_id, count(*) AS orders FROM placed
  WHERE :window IS NULL
     OR (day < first_day + :window AND first_day + :window - 1 <= (SELECT max(day) FROM dated))
  GROUP BY customer_id),
grouped AS (SELECT orders, count(*) AS customers FROM counted GROUP BY orders)
SELECT orders, customers, printf('%.6f', 1.0 * customers / sum(customers) OVER ()) AS share,
       printf('%.6f', 1.0 * sum(customers) OVER (ORDER BY orders) / sum(customers) OVER ()) AS cumulative_share
FROM grouped ORDER BY orders;
