"""The totals of docs/example-exports, computed from the raw files independently of the program, as JSON.

python3 example_totals.py FOLDER [LAST-MONTH]: without the web export of November if LAST-MONTH is 10.
"""
import csv
import datetime
import json
import os
import sys
from collections import defaultdict
from decimal import Decimal

import openpyxl

FOLDER = sys.argv[1]
LAST = int(sys.argv[2]) if len(sys.argv) > 2 else 11


def rows(name, delimiter, encoding, header):
    with open(os.path.join(FOLDER, name), encoding=encoding, newline="") as file:
        table = list(csv.reader(file, delimiter=delimiter))[header - 1:]
    return [dict(zip(table[0], row)) for row in table[1:]]


def web(name):
    """By order: its date, its customer, its lines (product, quantity, amount, whether it is returned)."""
    orders = defaultdict(list)
    for row in rows(name, ",", "utf-8", 4):
        if row["Order No"] == "Total":
            continue
        sign = -1 if row["Kind"] == "Credit note" else 1
        quantity = sign * int(row["Qty"])
        date = datetime.datetime.strptime(row["Placed"], "%m/%d/%Y %I:%M %p").date()
        orders[row["Order No"]].append((date, row["Account"].strip().upper(), row["Item"], quantity,
                                        quantity * Decimal(row["Each"].replace(",", ""))))
    return orders


def german(text):
    negative = text.startswith("(")
    number = Decimal(text.strip("()").replace("€", "").replace("Stk", "").replace(".", "").replace(",", ".").strip())
    return -number if negative else number


def counter():
    orders = defaultdict(list)
    sheet = openpyxl.load_workbook(os.path.join(FOLDER, "counter.xlsx"))["Kasse"]
    for order, day, customer, product, _, quantity, _, amount in sheet.iter_rows(min_row=5, values_only=True):
        if str(order).startswith("Summe"):
            continue
        date = datetime.datetime.strptime(day, "%d.%m.%Y").date()
        orders[str(order)].append((date, customer, product, int(german(quantity)), german(amount)))
    return orders


def list_prices():
    prices = defaultdict(list)
    for row in rows("price-list.csv", ";", "cp1252", 1):
        def day(text, otherwise):
            return datetime.datetime.strptime(text, "%d.%m.%Y").date() if text else otherwise
        prices[row["Item"]].append((day(row["From"], datetime.date.min), day(row["Until"], datetime.date.max), german(row["Price"])))
    return prices


tests = {row["Account"] for row in rows("customers.csv", ";", "cp1252", 1) if "Test" in row["Name"] or "Staff" in row["Name"]}
orders = web("web-2024-10.csv")
if LAST > 10:
    orders.update(web("web-2024-11.csv"))  # orders that it contains again are replaced
orders.update(counter())
prices = list_prices()
totals = {"lines": 0, "returns": 0, "amount": Decimal(), "fees": Decimal(), "at_list_price": Decimal()}
by_month, by_customer, by_product = defaultdict(Decimal), defaultdict(Decimal), defaultdict(int)
customers, bought = set(), set()
for order, lines in orders.items():
    for date, customer, product, quantity, amount in lines:
        if customer in tests:
            continue
        customers.add(customer)
        totals["lines"] += 1
        totals["returns"] += quantity < 0
        totals["amount"] += amount
        by_month[date.strftime("%Y-%m")] += amount
        by_customer[customer] += amount
        if quantity > 0:
            bought.add((customer, order))
        if product in ("FREIGHT", "PFAND"):
            totals["fees"] += amount
            continue
        by_product[product] += quantity
        totals["at_list_price"] += quantity * next(price for begin, end, price in prices[product] if begin <= date <= end)
totals["orders"] = len(bought)
totals["customers"] = len(customers)
money = "{:.2f}".format
print(json.dumps({
    "totals": {name: money(value) if isinstance(value, Decimal) else str(value) for name, value in totals.items()},
    "by_month": {month: money(amount) for month, amount in by_month.items()},
    "by_customer": {customer: money(amount) for customer, amount in by_customer.items()},
    "by_product": {product: str(quantity) for product, quantity in by_product.items()},
}))
