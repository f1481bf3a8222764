-- first.csv, said in SQL over the table `lines` (order_id, order_date, customer_id, product_id, quantity,
-- unit_price; whole quantities, prices with two decimals, ids of one letter and a number). Amounts are in cents.
-- Steps are temporary tables with keys, because SQLite would join the steps of one statement without any.
CREATE TEMP TABLE line AS
  SELECT customer_id, order_id, order_date, product_id,
         CAST(quantity AS INTEGER) * CAST(round(unit_price * 100) AS INTEGER) AS cents,
         CAST(quantity AS INTEGER) < 0 OR CAST(quantity AS INTEGER) * unit_price < 0 AS is_return
  FROM lines;
CREATE TEMP TABLE totals (customer_id TEXT PRIMARY KEY, cents) WITHOUT ROWID;
INSERT INTO totals SELECT customer_id, sum(cents) FROM line GROUP BY customer_id;
CREATE TEMP TABLE began (customer_id TEXT PRIMARY KEY, order_id, date, cents, second_date, orders) WITHOUT ROWID;
INSERT INTO began
  WITH placed AS (
    SELECT customer_id, order_id, min(order_date) AS date, sum(cents) AS cents
    FROM line GROUP BY customer_id, order_id HAVING min(is_return) = 0),
  ranked AS (
    SELECT *, row_number() OVER history AS place, lead(date) OVER history AS second_date,
           count(*) OVER (PARTITION BY customer_id) AS orders
    FROM placed
    WINDOW history AS (PARTITION BY customer_id ORDER BY date, length(order_id), order_id))
  SELECT customer_id, order_id, date, cents, second_date, orders FROM ranked WHERE place = 1;
CREATE TEMP TABLE products (customer_id TEXT PRIMARY KEY, names, size) WITHOUT ROWID;
INSERT INTO products
  SELECT customer_id, group_concat(product_id, ' + '), count(*)
  FROM (SELECT DISTINCT line.customer_id, line.product_id
        FROM line CROSS JOIN began ON began.customer_id = line.customer_id AND began.order_id = line.order_id
        WHERE NOT is_return
        ORDER BY line.customer_id, length(line.product_id), line.product_id)
  GROUP BY customer_id;
SELECT customer_id, date AS first_date, order_id AS first_order_id, names AS first_products, size AS first_size,
       printf('%.2f', began.cents / 100.0) AS first_amount, coalesce(second_date, '') AS second_date,
       coalesce(CAST(julianday(second_date) - julianday(date) AS INTEGER), '') AS days_to_second,
       orders, printf('%.2f', totals.cents / 100.0) AS amount
FROM began CROSS JOIN products USING (customer_id) CROSS JOIN totals USING (customer_id)
ORDER BY length(customer_id), customer_id;
