#include "questions/lookup/product.hpp"

#include <algorithm>
#include <utility>

#include <fmt/format.h>

#include "analysis/tables/table_builder.hpp"
#include "analysis/wording.hpp"
#include "base/text.hpp"
#include "questions/lookup/product_buyers.hpp"

namespace pear::lookup {
namespace {

/// Money per piece, to four places; empty if no piece was bought.
std::int64_t average_price(const PurchaseSum& sum) {
  const auto amount = sum.bought.total();
  const auto quantity = sum.quantity.total();
  return analysis::in_units(amount && quantity ? price_of_piece(*amount, *quantity) : std::nullopt);
}

/// Orders, pieces and money, which all tables have; sum_of(row) are the purchases of a row.
template <class Builder, class SumOf>
void add_sums(Builder& builder, const SumOf& sum_of) {
  builder.count("orders", "Orders with it.", [&](const auto& row) { return sum_of(row).orders; });
  builder.integer(result::Unit::number, "quantity", "Pieces bought.",
                  [&](const auto& row) { return analysis::in_units(sum_of(row).quantity); });
  builder.integer(result::Unit::number, "returned", "Pieces returned.",
                  [&](const auto& row) { return analysis::in_units(sum_of(row).returned); });
  builder.money("amount", "Amount, net of returns.",
                [&](const auto& row) { return analysis::in_units(sum_of(row).amount); });
  builder.money("average_price", "Average price per piece, of purchases.",
                [&](const auto& row) { return average_price(sum_of(row)); });
}

result::Table buyers_table(const daybook::Daybook& daybook, const ProductBuyers& facts) {
  using Row = std::pair<std::uint32_t, PurchaseSum>;
  std::vector<Row> buyers = facts.buyers;
  std::stable_sort(buyers.begin(), buyers.end(), [](const Row& a, const Row& b) {
    return analysis::in_units(a.second.amount) > analysis::in_units(b.second.amount);
  });
  result::Table table{"", "Buyers", "One row for each customer who bought it, the largest amount first.", {}};
  analysis::TableBuilder builder(table, buyers);
  const expression::GroupKey key = analysis::id_key(daybook, daybook::Level::customer);
  const auto customer = [](const Row& row) { return row.first; };
  builder.key("customer_id", "The customer.", key, customer);
  builder.names(daybook, key, customer);
  add_sums(builder, [](const Row& row) -> const PurchaseSum& { return row.second; });
  builder.money("lowest_price", "Lowest price paid per piece.",
                [](const Row& row) { return row.second.lowest_price; });
  builder.money("highest_price", "Highest price paid per piece.",
                [](const Row& row) { return row.second.highest_price; });
  builder.date("first_date", "Date of the first order with it.",
               [](const Row& row) { return row.second.first_day; });
  builder.date("last_date", "Date of the last order with it.",
               [](const Row& row) { return row.second.last_day; });
  return table;
}

using MonthRow = std::pair<Month, PurchaseSum>;

/// The months from the first to the last, including those without sales.
std::vector<MonthRow> all_months(const ProductBuyers& facts) {
  std::vector<MonthRow> months;
  for (Month month = facts.months.begin()->first; month <= facts.months.rbegin()->first; ++month.index) {
    const auto found = facts.months.find(month);
    months.emplace_back(month, found == facts.months.end() ? PurchaseSum{} : found->second);
  }
  return months;
}

result::Table months_table(const std::vector<MonthRow>& months) {
  result::Table table{
      "months", "When", "One row for each month, from the first to the last with a line of it.", {}};
  analysis::TableBuilder builder(table, months);
  builder.text("month", "The month.", [](const MonthRow& row) { return to_text(row.first); });
  builder.count("customers", "Customers who bought it.",
                [](const MonthRow& row) { return row.second.customers; });
  add_sums(builder, [](const MonthRow& row) -> const PurchaseSum& { return row.second; });
  return table;
}

result::Table prices_table(const ProductBuyers& facts) {
  using Row = std::pair<std::int64_t, PriceFacts>;
  const std::vector<Row> prices(facts.prices.begin(), facts.prices.end());
  result::Table table{"prices", "Prices paid", "One row for each price paid per piece, without returns.", {}};
  analysis::TableBuilder builder(table, prices);
  builder.money("price_paid", "Price paid per piece: amount / quantity.",
                [](const Row& row) { return row.first; });
  builder.money("unit_price", "Price per piece before discounts; empty if it differs between these lines.",
                [](const Row& row) { return row.second.before_discount; });
  builder.count("lines", "Lines at this price.", [](const Row& row) { return row.second.lines; });
  builder.count("customers", "Customers who paid it at least once.",
                [](const Row& row) { return row.second.customers; });
  builder.integer(result::Unit::number, "quantity", "Pieces at this price.",
                  [](const Row& row) { return analysis::in_units(row.second.quantity); });
  return table;
}

/// Products of the same orders, the most frequent first.
std::vector<std::uint32_t> companions_of(const ProductBuyers& facts) {
  std::vector<std::uint32_t> products;
  for (std::uint32_t product = 0; product < facts.orders_with.size(); ++product)
    if (facts.orders_with[product] > 0) products.push_back(product);
  std::stable_sort(products.begin(), products.end(), [&](std::uint32_t a, std::uint32_t b) {
    return facts.orders_with[a] > facts.orders_with[b];
  });
  return products;
}

double share_with(const ProductBuyers& facts, std::uint32_t companion) {
  return static_cast<double>(facts.orders_with[companion]) / static_cast<double>(facts.all.orders);
}

result::Table with_table(const daybook::Daybook& daybook, const ProductBuyers& facts) {
  const std::vector<std::uint32_t> products = companions_of(facts);
  result::Table table{"with",
                      "Bought in the same orders",
                      "One row for each product of the same orders, the most frequent first.",
                      {}};
  analysis::TableBuilder builder(table, products);
  const expression::GroupKey key = analysis::id_key(daybook, daybook::Level::product);
  const auto itself = [](std::uint32_t product) { return product; };
  builder.key("product_id", "The other product.", key, itself);
  builder.names(daybook, key, itself);
  builder.count("orders", "Orders with both.",
                [&](std::uint32_t product) { return facts.orders_with[product]; });
  builder.share("share", "These as a share of the orders with this product.",
                [&](std::uint32_t product) { return share_with(facts, product); });
  return table;
}

std::vector<std::string> headline(const analysis::QuestionInput& input, std::uint32_t product,
                                  const ProductBuyers& facts) {
  const daybook::Daybook& daybook = input.daybook;
  const std::string what = analysis::member_title(daybook, daybook::Level::product, product);
  if (facts.all.orders == 0) return {fmt::format("{} was returned but not bought.", what)};
  const auto pieces = facts.all.quantity.total();
  const std::string how_many =
      facts.has_quantities && pieces ? fmt::format(" {} pieces", with_thousands(*pieces, -1)) : " it";
  std::vector<std::string> sentences = {fmt::format(
      "{}: {} bought{} in {} for {}, from {} to {}.", what, counted(facts.all.customers, "customer"),
      how_many, counted(facts.all.orders, "order"), analysis::money_text(facts.all.bought, input.currency),
      to_text(Date{facts.all.first_day}), to_text(Date{facts.all.last_day}))};
  sentences.push_back(facts.bought_again == 0
                          ? "No customer bought it in a second order."
                          : fmt::format("{} of these customers ({}) bought it in several orders.",
                                        with_thousands(static_cast<std::int64_t>(facts.bought_again)),
                                        analysis::per_cent(facts.bought_again, facts.all.customers)));
  const std::vector<std::uint32_t> companions = companions_of(facts);
  if (companions.empty())
    return {sentences[0], sentences[1], fmt::format("{} was always the only product in the order.", what)};
  const std::uint32_t best = companions.front();
  sentences.push_back(fmt::format("{} is most often bought with {}: in {} of its orders.", what,
                                  analysis::member_title(daybook, daybook::Level::product, best),
                                  analysis::per_cent(facts.orders_with[best], facts.all.orders)));
  return sentences;
}

result::Table about_table(const analysis::QuestionInput& input, std::uint32_t product,
                          const ProductBuyers& facts) {
  analysis::AboutTable about(input.daybook, daybook::Level::product, product);
  const auto number = [](std::uint64_t value) { return with_thousands(static_cast<std::int64_t>(value)); };
  const auto decimal = [](std::int64_t units) {
    return units == result::kEmptyCell ? std::string() : with_thousands(Decimal::from_units(units));
  };
  about.add("customers",
            fmt::format("{} of {}", number(facts.all.customers), number(input.population.customers)));
  about.add("orders", fmt::format("{} of {}", number(facts.all.orders), number(input.population.orders)));
  about.add("lines", number(facts.all.lines));
  about.add("returned lines", number(facts.return_lines));
  about.add("amount", analysis::money_text(facts.all.bought, input.currency));
  about.add("amount, net of returns", analysis::money_text(facts.all.amount, input.currency));
  about.add("average price", decimal(average_price(facts.all)));
  about.add("lowest price", decimal(facts.all.lowest_price));
  about.add("highest price", decimal(facts.all.highest_price));
  return std::move(about).take();
}

result::Figure months_figure(const ProductBuyers& facts, const std::vector<MonthRow>& months) {
  result::Figure figure;
  analysis::TableBuilder builder(figure.marks, months);
  builder.text("month", "Month.", [](const MonthRow& row) { return to_text(row.first); });
  builder.count("orders", "Orders with it.", [](const MonthRow& row) { return row.second.orders; });
  figure.subtitle = fmt::format("Orders with it by month; {}", counted(facts.all.orders, "order"));
  result::BarChart chart;
  chart.label = "month";
  chart.value = "orders";
  chart.axis = result::LabelAxis::months;
  chart.value_title = "orders with it";
  figure.chart = std::move(chart);
  return figure;
}

result::Figure companions_figure(const analysis::QuestionInput& input, const ProductBuyers& facts,
                                 std::vector<std::uint32_t> companions) {
  constexpr std::size_t kMost = 15;
  result::Figure figure;
  figure.part = "with";
  figure.subtitle = fmt::format(
      "Share of its {} that also contain the other product{}", counted(facts.all.orders, "order"),
      companions.size() > kMost
          ? fmt::format("; the {} most frequent of {}", kMost, counted(companions.size(), "product"))
          : "");
  companions.resize(std::min(companions.size(), kMost));
  analysis::TableBuilder builder(figure.marks, companions);
  builder.text("product", "The other product.", [&](std::uint32_t product) {
    return analysis::member_title(input.daybook, daybook::Level::product, product);
  });
  builder.share("share", "Share of orders.",
                [&](std::uint32_t product) { return share_with(facts, product); });
  result::RankedBarChart chart;
  chart.label = "product";
  chart.value = "share";
  chart.value_title = "share of its orders";
  figure.chart = std::move(chart);
  return figure;
}

result::Result several_products(const analysis::QuestionInput& input,
                                const std::vector<std::uint32_t>& products, const std::string& text) {
  result::Result result;
  result::Table table{"", fmt::format("Products that match {}", in_quotes(text)), "One row for each product.",
                      analysis::attribute_columns(input.daybook, daybook::Level::product, products)};
  std::vector<ProductBuyers> facts;
  for (const std::uint32_t product : products) facts.push_back(buyers_of_product(input.daybook, product));
  analysis::TableBuilder builder(table, facts);
  builder.count("customers", "Customers who bought it.",
                [](const ProductBuyers& row) { return row.all.customers; });
  add_sums(builder, [](const ProductBuyers& row) -> const PurchaseSum& { return row.all; });
  result.tables = {std::move(table)};
  result.headline = {fmt::format("{} products match {}: {}.", products.size(), in_quotes(text),
                                 analysis::titles_of(input.daybook, daybook::Level::product, products)),
                     fmt::format("Use the id of one: pear-thread product {}",
                                 input.daybook.product_ids()[products.front()])};
  return result;
}

result::Result one_product(const analysis::QuestionInput& input, std::uint32_t product) {
  const ProductBuyers facts = buyers_of_product(input.daybook, product);
  result::Result result;
  result.headline = headline(input, product, facts);
  if (facts.months.empty()) {
    result.tables = {about_table(input, product, facts)};
    result.headline = {fmt::format("{} has no lines.",
                                   analysis::member_title(input.daybook, daybook::Level::product, product))};
    return result;
  }
  const auto months = all_months(facts);
  result.tables = {buyers_table(input.daybook, facts), months_table(months)};
  if (!facts.prices.empty()) result.tables.push_back(prices_table(facts));
  result.tables.push_back(with_table(input.daybook, facts));
  result.tables.push_back(about_table(input, product, facts));
  for (result::Table& table : result.tables)
    if (table.part != "about") table.most_shown = 6;
  std::uint64_t of_buyers = 0, of_months = 0;
  for (const auto& [customer, sum] : facts.buyers) of_buyers += sum.orders;
  for (const auto& [month, sum] : facts.months) of_months += sum.orders;
  result.checks.push_back({fmt::format("orders of all customers, and of all months, add up to {}",
                                       with_thousands(static_cast<std::int64_t>(facts.all.orders))),
                           of_buyers == facts.all.orders && of_months == facts.all.orders});
  if (facts.all.orders == 0) return result;
  result.figures = {months_figure(facts, months)};
  result.figures.front().title = result.headline[0];
  if (const std::vector<std::uint32_t> companions = companions_of(facts); !companions.empty()) {
    result.figures.push_back(companions_figure(input, facts, companions));
    result.figures.back().title = result.headline[2];
  }
  return result;
}

}  // namespace

OrError<result::Result> ask_product(const analysis::QuestionInput& input,
                                    const analysis::MemberOptions& options) {
  PEAR_ASSIGN(const std::vector<std::uint32_t> products,
              analysis::find_members(input.daybook, daybook::Level::product, options.find));
  result::Result result = products.size() == 1 ? one_product(input, products.front())
                                               : several_products(input, products, options.find);
  result.question = "product";
  result.definitions = {{"average price", "amount / quantity, of lines that are not returns"},
                        {"amount", "of all lines, net of returns"}};
  return result;
}

analysis::Question product_question() {
  return {"product",
          "one product: who buys it, when, at what prices, and with what",
          "All sales of one product: its customers, the largest first; its months; the prices paid; the "
          "products\nof the same orders. A part of a name lists all products that match.",
          {"pear-thread product P43 shop.daybook", "pear-thread product P43 --where \"region = 'North'\"",
           "pear-thread product \"starter kit\" shop.daybook"},
          analysis::infos(analysis::member_options(daybook::Level::product)),
          [](const analysis::OptionValues& values) -> OrError<analysis::PreparedQuestion> {
            PEAR_ASSIGN(const analysis::MemberOptions options,
                        analysis::read_member(daybook::Level::product, values));
            return analysis::prepared_for_member(daybook::Level::product, options, ask_product);
          },
          "find",
          40};
}

}  // namespace pear::lookup
