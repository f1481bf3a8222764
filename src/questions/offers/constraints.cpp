// What is asked of offers: days, bounds, and customers.
#include <algorithm>
#include <utility>

#include <fmt/format.h>

#include "analysis/find_member.hpp"
#include "base/text.hpp"
#include "questions/offers/finding.hpp"
#include "questions/offers/question.hpp"

namespace pear::offers {
namespace {

/// Codes of products in a list "P1,P2".
OrError<std::vector<std::uint32_t>> listed(const daybook::Daybook& daybook, const std::string& option,
                                           const std::string& list) {
  std::vector<std::uint32_t> products;
  for (std::size_t begin = 0; begin <= list.size();) {
    const std::size_t comma = std::min(list.find(',', begin), list.size());
    std::string text = list.substr(begin, comma - begin);
    text.erase(0, text.find_first_not_of(' '));
    text.erase(text.find_last_not_of(' ') + 1);
    if (text.empty())
      return usage_error(
          fmt::format("--{} {}: there is no product between two commas.", option, in_quotes(list)));
    auto found = analysis::find_one(daybook, daybook::Level::product, text);
    if (!found)
      return tl::unexpected(
          Error{found.error().kind, fmt::format("--{}: {}", option, found.error().message)});
    products.push_back(*found);
    begin = comma + 1;
  }
  return products;
}

/// Pieces by product, of a list with the columns product_id and pieces.
OrError<std::vector<std::int64_t>> stock_of(const daybook::Daybook& daybook,
                                            const analysis::SideTable& table) {
  const std::size_t products = column_of(table, "product_id"), pieces = column_of(table, "pieces");
  if (products == table.header.size() || pieces == table.header.size())
    return data_error(fmt::format("{}: a stock list has the columns product_id and pieces; this one has {}.",
                                  table.file, join(table.header, ", ")));
  std::vector<std::int64_t> stock(daybook.products(), 0);
  std::vector<std::uint64_t> lines(daybook.products(), 0);
  for (std::size_t row = 0; row < table.rows.size(); ++row) {
    const std::string& id = table.rows[row][products];
    const std::string where = fmt::format("{} line {}", table.file, table.lines[row]);
    const auto count = Decimal::parse(table.rows[row][pieces]);
    if (!count || count->units() < 0)
      return data_error(fmt::format("{}, column {}: {} is not a number of pieces, 0 or more.", where,
                                    table.header[pieces], in_quotes(table.rows[row][pieces])));
    for (std::uint32_t product = 0; product < daybook.products(); ++product) {
      if (daybook.product_ids()[product] != id) continue;
      if (lines[product] != 0)
        return data_error(fmt::format("{}: {} stands on line {} already. Leave one row for each product.",
                                      where, in_quotes(id), lines[product]));
      lines[product] = table.lines[row];
      stock[product] = count->units() / Decimal::kScale;
    }
  }
  return stock;
}

}  // namespace

std::size_t column_of(const analysis::SideTable& table, std::string_view name) {
  const auto found = std::find_if(table.header.begin(), table.header.end(),
                                  [&](const std::string& each) { return snake_case(each) == name; });
  return static_cast<std::size_t>(found - table.header.begin());
}

OrError<Date> planning_day(const analysis::QuestionInput& asked, const Options& options) {
  if (!options.as_of) return asked.data_end;
  if (*options.as_of > asked.data_end)
    return usage_error(
        fmt::format("--as-of {} is later than the data, which ends on {}: what was bought since is not "
                    "known. Import newer "
                    "sales first.",
                    to_text(*options.as_of), to_text(asked.data_end)));
  const Date first = *asked.population.first_date;
  if (*options.as_of < first)
    return usage_error(fmt::format(
        "--as-of {} is earlier than the first sale, of {}: nothing was known then. Take a later day.",
        to_text(*options.as_of), to_text(first)));
  return *options.as_of;
}

OrError<recommender::Constraints> constraints_of(const analysis::QuestionInput& asked,
                                                 const Options& options) {
  constexpr double kLeastChance = 0.01;
  const daybook::Daybook& daybook = asked.daybook;
  const bool has_margins = daybook.find("margin") != nullptr;
  recommender::Constraints bounds;
  bounds.per_customer = static_cast<std::size_t>(options.per_customer);
  bounds.least_chance = options.min_chance.value_or(kLeastChance);
  bounds.rank_by =
      options.rank_by.value_or(has_margins ? recommender::RankBy::margin : recommender::RankBy::amount);
  if (bounds.rank_by == recommender::RankBy::margin && !has_margins)
    return usage_error(
        "--rank-by margin needs costs, and the daybook has no unit_cost. Take amount or chance.");
  bounds.allowed.assign(daybook.products(), options.only ? 0 : 1);
  if (options.only) {
    PEAR_ASSIGN(const auto products, listed(daybook, "only", *options.only));
    for (const std::uint32_t product : products) bounds.allowed[product] = 1;
  }
  if (options.exclude) {
    PEAR_ASSIGN(const auto products, listed(daybook, "exclude", *options.exclude));
    for (const std::uint32_t product : products) bounds.allowed[product] = 0;
  }
  if (options.stock) {
    PEAR_ASSIGN(bounds.stock, stock_of(daybook, asked.side_tables.at("stock")));
  }
  if (options.budget) bounds.budget = static_cast<std::size_t>(*options.budget);
  return bounds;
}

/// Where --where left nobody to plan for.
std::vector<std::uint8_t> planned_of(const analysis::QuestionInput& asked) {
  return asked.chosen_customers.empty() ? std::vector<std::uint8_t>(asked.daybook.customers(), 1)
                                        : asked.chosen_customers;
}

void note_choice(const analysis::QuestionInput& asked, result::Result& result) {
  if (asked.chosen_customers.empty()) return;
  result.notes.push_back(
      fmt::format("Planned for the {} with a line that meets --where.",
                  counted(static_cast<std::uint64_t>(
                              std::count(asked.chosen_customers.begin(), asked.chosen_customers.end(), 1)),
                          "customer")));
}

mining::Histories histories_until(const analysis::QuestionInput& asked, const expression::GroupKey& products,
                                  Date day) {
  mining::SequenceRule rule;
  rule.repeats = mining::Repeats::all;
  mining::Histories histories = mining::gather_histories(asked.daybook, products, rule);
  return day < *asked.population.last_date ? recommender::known_by(histories, day) : std::move(histories);
}

}  // namespace pear::offers
