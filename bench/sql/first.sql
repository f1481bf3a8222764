-- first.csv, said in SQL over the table `lines` (order_id, order_date, customer_id, product_id, quantity,
-- unit_price; whole quantities, prices with two decimals, ids of one letter and a number). Amounts are in cents.
WITH line AS (
  SELECT customer_id, order_id, order_date, product_id,
         CAST(quantity AS INTEGER) * CAST(round(unit_price * 100) AS INTEGER) AS cents,
         CAST(quantity AS INTEGER) < 0 OR CAST(quantity AS INTEGER) * unit_price < 0 AS is_return
  FROM lines),
placed AS (
  SELECT customer_id, order_id, min(order_date) AS date, sum(cents) AS cents
  FROM line GROUP BY customer_id, order_id HAVING min(is_return) = 0),
ranked AS (
  SELECT *, row_number() OVER (PARTITION BY customer_id ORDER BY date, length(order_id), order_id) AS place
  FROM placed),
totals AS (SELECT customer_id, sum(cents) AS cents FROM line GROUP BY customer_id),
counts AS (SELECT customer_id, count(*) AS orders FROM placed GROUP BY customer_id),
products AS (
  SELECT customer_id, group_concat(product_id, ' + ') AS names, count(*) AS size
  FROM (SELECT DISTINCT line.customer_id, line.product_id
        FROM ranked JOIN line USING (customer_id, order_id) WHERE place = 1 AND NOT is_return
        ORDER BY line.customer_id, length(line.product_id), line.product_id)
  GROUP BY customer_id)
SELECT first.customer_id, first.date AS first_date, first.order_id AS first_order_id, names AS first_products,
       size AS first_size, printf('%.2f', first.cents / 100.0) AS first_amount,
       coalesce(second.date, '') AS second_date,
       coalesce(CAST(julianday(second.date) - julianday(first.date) AS INTEGER), '') AS days_to_second,
       orders, printf('%.2f', totals.cents / 100.0) AS amount
FROM ranked AS first
LEFT JOIN ranked AS second ON second.customer_id = first.customer_id AND second.place = 2
JOIN products ON products.customer_id = first.customer_id
JOIN counts ON counts.customer_id = first.customer_id
JOIN totals ON totals.customer_id = first.customer_id
WHERE first.place = 1
ORDER BY length(first.customer_id), first.customer_id;
