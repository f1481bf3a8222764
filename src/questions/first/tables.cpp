#include "questions/first/tables.hpp"

#include <algorithm>
#include <utility>

#include <fmt/format.h>

#include "analysis/tables/member_column.hpp"
#include "analysis/tables/parallel_texts.hpp"
#include "analysis/tables/table_builder.hpp"
#include "analysis/wording.hpp"
#include "base/text.hpp"
#include "daybook/purchases.hpp"
#include "statistics/wilson_interval.hpp"

namespace pear::first {
namespace {

/// "P11 + P31", and how many. Lines of an order are sorted by product, so equal products are neighbours.
std::int64_t append_products(const daybook::Daybook& daybook, const daybook::Purchases& purchases,
                             std::uint32_t order, std::string& names) {
  const auto& products = daybook.line_products();
  const TextArray& ids = daybook.product_ids();
  const daybook::Run lines = daybook.lines_of(order);
  std::int64_t size = 0;
  std::uint32_t previous = 0;
  for (std::uint32_t line = lines.begin; line < lines.end; ++line) {
    const std::uint32_t product = products[line];
    if (!purchases.is_of_product(line) || (size > 0 && product == previous)) continue;
    if (size > 0) names += " + ";
    names += ids[product];
    previous = product;
    ++size;
  }
  return size;
}

/// The products of first orders as one text each, and their number.
struct FirstProducts {
  TextArray names;
  std::vector<std::int64_t> sizes;
};

FirstProducts first_products(const Counts& counts) {
  const daybook::Purchases purchases(counts.daybook());
  FirstProducts all;
  all.sizes.resize(counts.customers.size());
  all.names = analysis::parallel_texts(counts.customers.size(), [&](std::size_t row, std::string& text) {
    all.sizes[row] =
        append_products(counts.daybook(), purchases, counts.beginnings[counts.customers[row]].first, text);
  });
  return all;
}

}  // namespace

result::Table customers_table(const Counts& counts) {
  const auto day = [&](std::uint32_t order) -> std::int64_t {
    return order == daybook::kNoMember ? result::kEmptyCell : counts.daybook().date_of_order(order).days;
  };
  result::Table table{"", "First purchases", "One row for each customer who placed an order.", {}};
  analysis::TableBuilder builder(table, counts.customers);
  builder.id("customer_id", "The customer.", counts.daybook().customer_ids(),
             [](std::uint32_t customer) { return customer; });
  const auto of = [&](std::uint32_t customer) -> const FirstOrders& { return counts.beginnings[customer]; };
  builder.date("first_date", "Date of the customer's first order.",
               [&](std::uint32_t customer) { return day(of(customer).first); });
  builder.add(result::text_column(
      "first_order_id", "Id of the first order.",
      analysis::parallel_texts(counts.customers.size(), [&](std::size_t row, std::string& text) {
        text += counts.daybook().order_ids()[of(counts.customers[row]).first];
      })));
  FirstProducts products = first_products(counts);
  builder.add(result::text_column(
      "first_products",
      "Ids of the distinct products of the first order, in natural order, joined by \" + \".",
      std::move(products.names)));
  builder.add(result::integer_column("first_size", result::Unit::count,
                                     "Number of distinct products in the first order.",
                                     std::move(products.sizes)));
  builder.money("first_amount", "Amount of the first order.",
                [&](std::uint32_t customer) { return of(customer).first_amount; });
  builder.date("second_date", "Date of the second order; empty if there is none.",
               [&](std::uint32_t customer) { return day(of(customer).second); });
  builder.days("days_to_second", "Days from the first order to the second; empty if there is none.",
               [&](std::uint32_t customer) {
                 const FirstOrders& each = of(customer);
                 return each.second == daybook::kNoMember ? result::kEmptyCell
                                                          : day(each.second) - day(each.first);
               });
  builder.count("orders", "Number of all orders.",
                [&](std::uint32_t customer) { return of(customer).orders; });
  builder.money("amount", "Amount of all lines of the customer.",
                [&](std::uint32_t customer) { return of(customer).amount; });
  builder.text("is_new", "Whether the first order is after the run-in period: yes or no.",
               [&](std::uint32_t customer) { return std::string(of(customer).is_new ? "yes" : "no"); });
  return table;
}

result::Table entry_table(const Counts& counts) {
  const Entries& entries = counts.entries;
  const std::string name = counts.entry_noun(), days = counts.followed();
  result::Table table{
      "entry",
      fmt::format("Entry {}: repeat rate and later purchases", analysis::plural_of(name)),
      fmt::format("One row for each {} in first orders; a customer counts once for each.", name),
      {}};
  analysis::TableBuilder builder(table, entries.entries);
  const auto code = [](const Entry& entry) { return entry.code; };
  builder.key(counts.options.per ? counts.options.per->name : "product_id", fmt::format("The {}.", name),
              counts.entry_key, code);
  builder.names(counts.daybook(), counts.entry_key, code);
  builder.count("new_customers", "New customers whose first order contains it.",
                [](const Entry& entry) { return entry.new_customers; });
  builder.share("share", "These as a share of all new customers.", [&](const Entry& entry) {
    return static_cast<double>(entry.new_customers) / static_cast<double>(entries.customers);
  });
  builder.count("followed",
                fmt::format("Of the new customers, those whose first {} are entirely within the data.", days),
                [](const Entry& entry) { return entry.followed; });
  builder.count("ordered_again",
                fmt::format("Of those followed, customers with a second order within {}.", days),
                [](const Entry& entry) { return entry.ordered_again; });
  builder.share("repeat_rate", "These as a share of those followed: the repeat rate.",
                [](const Entry& entry) { return entry.share(); });
  builder.share("repeat_rate_low", "Lower end of the 95% Wilson interval of repeat_rate.",
                [](const Entry& entry) { return entry.interval().low; });
  builder.share("repeat_rate_high", "Upper end of the 95% Wilson interval of repeat_rate.",
                [](const Entry& entry) { return entry.interval().high; });
  builder.probability("q_value",
                      fmt::format("Significance of the difference between repeat_rate and that of other new "
                                  "customers; empty with fewer than {} followed.",
                                  counts.options.at_least),
                      [](const Entry& entry) { return entry.q_value; });
  builder.days("days_to_second_median", "Median days to the second order, of those who ordered again.",
               [](const Entry& entry) { return entry.days_median; });
  builder
      .integer(result::Unit::number, "later_orders",
               fmt::format("Mean number of orders after the first within {}, of those followed.", days),
               [](const Entry& entry) { return entry.later_orders; })
      .places = 2;
  builder.rounded_money("later_amount",
                        fmt::format("Mean amount after the first order within {}, of those followed.", days),
                        [](const Entry& entry) { return entry.later_amount; });
  const auto share = [&](const Entry& entry) {
    return statistics::wilson_interval(entry.new_customers, entries.customers);
  };
  builder.share("share_low", "Lower end of the 95% Wilson interval of share.",
                [&](const Entry& entry) { return share(entry).low; });
  builder.share("share_high", "Upper end of the 95% Wilson interval of share.",
                [&](const Entry& entry) { return share(entry).high; });
  return table;
}

result::Table months_table(const Counts& counts) {
  const analysis::CustomerGroups& groups = counts.groups;
  result::Table table{"months",
                      "New customers by month",
                      groups.is_split() ? fmt::format("One row for each {} and month.", groups.noun())
                                        : "One row for each month.",
                      {}};
  analysis::TableBuilder builder(table, counts.months);
  table.columns = groups.columns(builder.codes([](const MonthFacts& facts) { return facts.group; }));
  builder.text("month", "Month of the first order.",
               [](const MonthFacts& facts) { return to_text(facts.month); });
  builder.count("new_customers", "New customers whose first order is in this month.",
                [](const MonthFacts& facts) { return facts.new_customers; });
  builder.count("cumulative_customers", "Customers whose first order is in this month or an earlier one.",
                [](const MonthFacts& facts) { return facts.cumulative_customers; });
  builder.money("first_amount", "Amount of these first orders.",
                [](const MonthFacts& facts) { return analysis::in_units(facts.first_amount); });
  table.most_shown = 6;
  table.rows_by_time = !groups.is_split();
  return table;
}

result::Table first_buys_table(const std::shared_ptr<const Counts>& counts) {
  const std::string noun = counts->entry_noun();
  result::Table table{
      noun,
      fmt::format("First purchase of each {}", noun),
      fmt::format("One row for each customer and {} that the customer bought, in order of time.", noun),
      {}};
  std::replace(table.part.begin(), table.part.end(), ' ', '-');
  const std::size_t rows = counts->first_buys->rows().size();
  const analysis::LazyRows lazy{
      rows, [counts](std::size_t row) -> const FirstBuy& { return counts->first_buys->rows()[row]; }};
  analysis::TableBuilder builder(table, lazy);
  builder.id("customer_id", "The customer.", counts->daybook().customer_ids(),
             [](const FirstBuy& row) { return row.customer; });
  const auto code = [](const FirstBuy& row) { return row.code; };
  const expression::Tree& per = *counts->options.per;
  builder.key(per.name, fmt::format("What was bought: {}.", per.text), counts->entry_key, code).always_shown =
      false;
  builder.names(counts->daybook(), counts->entry_key, code);
  builder.date("first_date", "Date of the customer's first order with it.",
               [counts](const FirstBuy& row) { return counts->daybook().date_of_order(row.order).days; });
  builder.add(result::text_column("first_order_id", "Id of that order.", TextArray()));
  table.columns.back().values = result::computed<std::string_view>(rows, [counts](std::size_t row) {
    return counts->daybook().order_ids()[counts->first_buys->rows()[row].order];
  });
  const auto bought = [counts](auto of) {
    return [counts, of](const FirstBuy& row) { return of(counts->first_buys->bought(row)); };
  };
  const daybook::Column* pieces = counts->daybook().find(daybook::role::kQuantity);
  const bool has_quantity = pieces != nullptr && pieces->level == daybook::Level::line;
  builder.integer(result::Unit::number, "quantity", "Pieces of it in that order, without returned ones.",
                  bought([has_quantity](const BoughtFirst& sum) {
                    return has_quantity ? analysis::in_units(sum.quantity) : result::kEmptyCell;
                  }));
  builder.money("price_paid", "Price paid per piece in that order: amount / quantity.",
                bought([](const BoughtFirst& sum) { return sum.price_paid(); }));
  builder.money("unit_price", "Price per piece before discounts; empty if several lines differ.",
                bought([](const BoughtFirst& sum) { return sum.unit_price; }));
  builder.money("amount", "Amount of it in that order, without returned lines.",
                bought([](const BoughtFirst& sum) { return analysis::in_units(sum.amount); }));
  return table;
}

}  // namespace pear::first
