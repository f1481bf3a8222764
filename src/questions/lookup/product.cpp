#include "questions/lookup/product.hpp"

#include <algorithm>
#include <utility>

#include <fmt/format.h>

#include "analysis/member_column.hpp"
#include "analysis/wording.hpp"
#include "base/text.hpp"
#include "questions/lookup/product_buyers.hpp"

namespace pear::lookup {
namespace {

std::int64_t units_of(const DecimalSum& sum) {
  return sum.total() ? sum.total()->units() : result::kEmptyCell;
}

/// Money by pieces, to four places; empty where no piece was bought.
std::int64_t average_price(const PurchaseSum& sum) {
  const auto amount = sum.bought.total();
  const auto quantity = sum.quantity.total();
  const auto price = amount && quantity ? price_of_piece(*amount, *quantity) : std::nullopt;
  return price ? price->units() : result::kEmptyCell;
}

/// A row for each of several sums, column by column.
class SumColumns {
 public:
  void add(const PurchaseSum& sum) { sums_.push_back(&sum); }

  template <class Of>
  result::TableColumn column(std::string name, result::Unit unit, std::string description, Of of) const {
    std::vector<std::int64_t> values;
    values.reserve(sums_.size());
    for (const PurchaseSum* sum : sums_) values.push_back(static_cast<std::int64_t>(of(*sum)));
    return result::integer_column(std::move(name), unit, std::move(description), std::move(values));
  }

  /// Pieces and money, which all tables have.
  void add_amounts(std::vector<result::TableColumn>& columns) const {
    columns.push_back(column("quantity", result::Unit::number, "Pieces bought.",
                             [](const PurchaseSum& sum) { return units_of(sum.quantity); }));
    columns.push_back(column("returned", result::Unit::number, "Pieces that came back.",
                             [](const PurchaseSum& sum) { return units_of(sum.returned); }));
    columns.push_back(column("amount", result::Unit::money, "Amount, returns taken off.",
                             [](const PurchaseSum& sum) { return units_of(sum.amount); }));
    columns.push_back(
        column("average_price", result::Unit::money, "Amount of what was bought, by pieces.", average_price));
  }

 private:
  std::vector<const PurchaseSum*> sums_;
};

result::Table buyers_table(const daybook::Daybook& daybook, const ProductBuyers& facts) {
  std::vector<const std::pair<std::uint32_t, PurchaseSum>*> buyers;
  for (const auto& buyer : facts.buyers) buyers.push_back(&buyer);
  std::stable_sort(buyers.begin(), buyers.end(), [](const auto* a, const auto* b) {
    return units_of(a->second.amount) > units_of(b->second.amount);
  });
  SumColumns sums;
  std::vector<std::uint32_t> customers;
  for (const auto* buyer : buyers) {
    customers.push_back(buyer->first);
    sums.add(buyer->second);
  }
  result::Table table{
      "", "Who buys it", "One row for each customer who bought it, the largest amount first.", {}};
  auto& columns = table.columns;
  const expression::GroupKey key = analysis::id_key(daybook, daybook::Level::customer);
  columns.push_back(analysis::key_column("customer_id", "The customer.", key, customers));
  analysis::add_names(daybook, key, customers, columns);
  columns.push_back(sums.column("orders", result::Unit::count, "Orders with it.",
                                [](const PurchaseSum& sum) { return sum.orders; }));
  sums.add_amounts(columns);
  columns.push_back(sums.column("lowest_price", result::Unit::money, "Lowest price paid for a piece.",
                                [](const PurchaseSum& sum) { return sum.lowest_price; }));
  columns.push_back(sums.column("highest_price", result::Unit::money, "Highest price paid for a piece.",
                                [](const PurchaseSum& sum) { return sum.highest_price; }));
  columns.push_back(sums.column("first_date", result::Unit::date, "Date of the first order with it.",
                                [](const PurchaseSum& sum) { return sum.first_day; }));
  columns.push_back(sums.column("last_date", result::Unit::date, "Date of the last order with it.",
                                [](const PurchaseSum& sum) { return sum.last_day; }));
  return table;
}

/// The months from the first to the last, those without any included.
std::vector<std::pair<Month, PurchaseSum>> all_months(const ProductBuyers& facts) {
  std::vector<std::pair<Month, PurchaseSum>> months;
  for (Month month = facts.months.begin()->first; month <= facts.months.rbegin()->first; ++month.index) {
    const auto found = facts.months.find(month);
    months.emplace_back(month, found == facts.months.end() ? PurchaseSum{} : found->second);
  }
  return months;
}

result::Table months_table(const std::vector<std::pair<Month, PurchaseSum>>& months) {
  SumColumns sums;
  TextArray labels;
  for (const auto& [month, sum] : months) {
    labels.push_back(to_text(month));
    sums.add(sum);
  }
  result::Table table{
      "months", "When", "One row for each month, from the first to the last with a line of it.", {}};
  auto& columns = table.columns;
  columns.push_back(result::text_column("month", "The month.", std::move(labels)));
  columns.push_back(sums.column("customers", result::Unit::count, "Customers who bought it.",
                                [](const PurchaseSum& sum) { return sum.customers; }));
  columns.push_back(sums.column("orders", result::Unit::count, "Orders with it.",
                                [](const PurchaseSum& sum) { return sum.orders; }));
  sums.add_amounts(columns);
  return table;
}

result::Table prices_table(const ProductBuyers& facts) {
  std::vector<std::int64_t> prices, lines, customers, quantities;
  for (const auto& [price, each] : facts.prices) {
    prices.push_back(price);
    lines.push_back(static_cast<std::int64_t>(each.lines));
    customers.push_back(static_cast<std::int64_t>(each.customers));
    quantities.push_back(units_of(each.quantity));
  }
  result::Table table{"prices", "At what prices", "One row for each price of a piece, returns left out.", {}};
  table.columns = {
      result::integer_column("unit_price", result::Unit::money, "Price of a piece.", std::move(prices)),
      result::integer_column("lines", result::Unit::count, "Lines at this price.", std::move(lines)),
      result::integer_column("customers", result::Unit::count, "Customers who ever paid it.",
                             std::move(customers)),
      result::integer_column("quantity", result::Unit::number, "Pieces at this price.",
                             std::move(quantities))};
  return table;
}

/// Products of the same orders, the commonest first.
std::vector<std::uint32_t> companions_of(const ProductBuyers& facts) {
  std::vector<std::uint32_t> products;
  for (std::uint32_t product = 0; product < facts.orders_with.size(); ++product)
    if (facts.orders_with[product] > 0) products.push_back(product);
  std::stable_sort(products.begin(), products.end(), [&](std::uint32_t a, std::uint32_t b) {
    return facts.orders_with[a] > facts.orders_with[b];
  });
  return products;
}

result::Table with_table(const daybook::Daybook& daybook, const ProductBuyers& facts) {
  const std::vector<std::uint32_t> products = companions_of(facts);
  std::vector<std::int64_t> orders;
  std::vector<double> shares;
  for (const std::uint32_t product : products) {
    orders.push_back(static_cast<std::int64_t>(facts.orders_with[product]));
    shares.push_back(static_cast<double>(facts.orders_with[product]) / static_cast<double>(facts.all.orders));
  }
  result::Table table{
      "with", "With what", "One row for each product of the same orders, the commonest first.", {}};
  const expression::GroupKey key = analysis::id_key(daybook, daybook::Level::product);
  table.columns.push_back(analysis::key_column("product_id", "The other product.", key, products));
  analysis::add_names(daybook, key, products, table.columns);
  table.columns.push_back(
      result::integer_column("orders", result::Unit::count, "Orders with both.", std::move(orders)));
  table.columns.push_back(result::share_column(
      "share", "These as a share of the orders with the product asked about.", std::move(shares)));
  return table;
}

std::vector<std::string> headline(const analysis::QuestionInput& asked, std::uint32_t product,
                                  const ProductBuyers& facts) {
  const daybook::Daybook& daybook = asked.daybook;
  const std::string what = analysis::member_title(daybook, daybook::Level::product, product);
  if (facts.all.orders == 0) return {fmt::format("{} was returned and not bought.", what)};
  const auto pieces = facts.all.quantity.total();
  const std::string how_many =
      facts.has_quantities && pieces ? fmt::format(" {} pieces", with_thousands(*pieces, -1)) : " it";
  std::vector<std::string> sentences = {fmt::format(
      "{}: {} bought{} in {} for {}, from {} to {}.", what, counted(facts.all.customers, "customer"),
      how_many, counted(facts.all.orders, "order"), analysis::money_text(facts.all.amount, asked.currency),
      to_text(Date{facts.all.first_day}), to_text(Date{facts.all.last_day}))};
  sentences.push_back(facts.bought_again == 0
                          ? "Nobody bought it in a second order."
                          : fmt::format("{} of these customers ({}) bought it in several orders.",
                                        with_thousands(static_cast<std::int64_t>(facts.bought_again)),
                                        analysis::per_cent(facts.bought_again, facts.all.customers)));
  const std::vector<std::uint32_t> companions = companions_of(facts);
  if (companions.empty())
    return {sentences[0], sentences[1], fmt::format("{} was always bought alone.", what)};
  const std::uint32_t best = companions.front();
  sentences.push_back(fmt::format("{} goes most often with {}: in {} of its orders.", what,
                                  analysis::member_title(daybook, daybook::Level::product, best),
                                  analysis::per_cent(facts.orders_with[best], facts.all.orders)));
  return sentences;
}

result::Table about_table(const analysis::QuestionInput& asked, std::uint32_t product,
                          const ProductBuyers& facts) {
  analysis::AboutTable about(asked.daybook, daybook::Level::product, product);
  const auto number = [](std::uint64_t value) { return with_thousands(static_cast<std::int64_t>(value)); };
  const auto decimal = [](std::int64_t units) {
    return units == result::kEmptyCell ? std::string() : with_thousands(Decimal::from_units(units));
  };
  about.add("customers",
            fmt::format("{} of {}", number(facts.all.customers), number(asked.population.customers)));
  about.add("orders", fmt::format("{} of {}", number(facts.all.orders), number(asked.population.orders)));
  about.add("lines", number(facts.all.lines));
  about.add("returned lines", number(facts.return_lines));
  about.add("amount", analysis::money_text(facts.all.amount, asked.currency));
  about.add("average price", decimal(average_price(facts.all)));
  about.add("lowest price", decimal(facts.all.lowest_price));
  about.add("highest price", decimal(facts.all.highest_price));
  return std::move(about).take();
}

std::vector<result::Figure> figures_of(const analysis::QuestionInput& asked, const ProductBuyers& facts,
                                       const std::vector<std::pair<Month, PurchaseSum>>& months) {
  result::Figure when;
  SumColumns sums;
  TextArray labels;
  for (const auto& [month, sum] : months) {
    labels.push_back(to_text(month));
    sums.add(sum);
  }
  when.marks.columns = {result::text_column("month", "Month.", std::move(labels)),
                        sums.column("orders", result::Unit::count, "Orders with it.",
                                    [](const PurchaseSum& sum) { return sum.orders; })};
  when.axis = result::Figure::Axis::months;
  when.value_title = "orders with it";
  when.subtitle = fmt::format("Orders with it by month; {}", counted(facts.all.orders, "order"));
  std::vector<std::uint32_t> companions = companions_of(facts);
  if (companions.empty()) return {when};
  constexpr std::size_t kMost = 15;
  result::Figure with;
  with.kind = result::Figure::Kind::ranked_bars;
  with.part = "with";
  with.subtitle =
      fmt::format("Share of its {} that hold the other product too{}", counted(facts.all.orders, "order"),
                  companions.size() > kMost
                      ? fmt::format("; the {} commonest of {}", kMost, counted(companions.size(), "product"))
                      : "");
  companions.resize(std::min(companions.size(), kMost));
  TextArray names;
  std::vector<double> shares;
  for (const std::uint32_t product : companions) {
    names.push_back(analysis::member_title(asked.daybook, daybook::Level::product, product));
    shares.push_back(static_cast<double>(facts.orders_with[product]) / static_cast<double>(facts.all.orders));
  }
  with.marks.columns = {result::text_column("product", "The other product.", std::move(names)),
                        result::share_column("share", "Share of orders.", std::move(shares))};
  with.value_title = "share of its orders";
  return {when, with};
}

result::Result several_products(const analysis::QuestionInput& asked,
                                const std::vector<std::uint32_t>& products, const std::string& name) {
  result::Result result;
  result::Table table{"", fmt::format("Products named {}", name), "One row for each product.",
                      analysis::attribute_columns(asked.daybook, daybook::Level::product, products)};
  std::vector<ProductBuyers> facts;
  for (const std::uint32_t product : products) facts.push_back(buyers_of_product(asked.daybook, product));
  SumColumns sums;
  for (const ProductBuyers& each : facts) sums.add(each.all);
  table.columns.push_back(sums.column("customers", result::Unit::count, "Customers who bought it.",
                                      [](const PurchaseSum& sum) { return sum.customers; }));
  table.columns.push_back(sums.column("orders", result::Unit::count, "Orders with it.",
                                      [](const PurchaseSum& sum) { return sum.orders; }));
  sums.add_amounts(table.columns);
  result.tables = {std::move(table)};
  result.headline = {fmt::format("{} products share the name {}.", products.size(), in_quotes(name)),
                     fmt::format("Ask for one by id: pear-thread product {}",
                                 asked.daybook.product_ids()[products.front()])};
  return result;
}

result::Result one_product(const analysis::QuestionInput& asked, std::uint32_t product) {
  const ProductBuyers facts = buyers_of_product(asked.daybook, product);
  result::Result result;
  result.headline = headline(asked, product, facts);
  if (facts.months.empty()) {
    result.tables = {about_table(asked, product, facts)};
    result.headline = {fmt::format("{} has no line.",
                                   analysis::member_title(asked.daybook, daybook::Level::product, product))};
    return result;
  }
  const auto months = all_months(facts);
  result.tables = {buyers_table(asked.daybook, facts), months_table(months)};
  if (!facts.prices.empty()) result.tables.push_back(prices_table(facts));
  result.tables.push_back(with_table(asked.daybook, facts));
  result.tables.push_back(about_table(asked, product, facts));
  for (result::Table& table : result.tables)
    if (table.part != "about") table.most_shown = 6;
  std::uint64_t of_buyers = 0, of_months = 0;
  for (const auto& [customer, sum] : facts.buyers) of_buyers += sum.orders;
  for (const auto& [month, sum] : facts.months) of_months += sum.orders;
  result.checks.push_back({fmt::format("orders of all customers, and of all months, add up to {}",
                                       with_thousands(static_cast<std::int64_t>(facts.all.orders))),
                           of_buyers == facts.all.orders && of_months == facts.all.orders});
  if (facts.all.orders == 0) return result;
  result.figures = figures_of(asked, facts, months);
  for (std::size_t i = 0; i < result.figures.size(); ++i) result.figures[i].title = result.headline[2 * i];
  return result;
}

}  // namespace

OrError<result::Result> ask_product(const analysis::QuestionInput& asked,
                                    const analysis::MemberOptions& options) {
  PEAR_ASSIGN(const std::vector<std::uint32_t> products,
              analysis::find_members(asked.daybook, daybook::Level::product, options));
  result::Result result = products.size() == 1
                              ? one_product(asked, products.front())
                              : several_products(asked, products, options.name ? *options.name : *options.id);
  result.question = "product";
  result.definitions = {{"average price", "amount by pieces, of lines that are not returns"},
                        {"amount", "of all lines, returns taken off"}};
  return result;
}

analysis::Question product_question() {
  return {
      "product",
      "one product: who buys it, when, at what prices, with what",
      "All that was sold of one product: its customers, the largest first; its months; the prices paid; the\n"
      "products of the same orders. --name lists all products that share a name.",
      {"pear-thread product P43 shop.daybook", "pear-thread product P43 --where \"region = 'North'\"",
       "pear-thread product --name \"Starter kit\" shop.daybook"},
      analysis::infos(analysis::member_options(daybook::Level::product)),
      [](const analysis::OptionValues& values) -> OrError<analysis::PreparedQuestion> {
        PEAR_ASSIGN(const analysis::MemberOptions options,
                    analysis::read_member(daybook::Level::product, values));
        return analysis::prepared_for_member(daybook::Level::product, options, ask_product);
      },
      "id",
      40};
}

}  // namespace pear::lookup
