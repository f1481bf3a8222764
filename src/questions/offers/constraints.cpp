#include "questions/offers/constraints.hpp"

#include <algorithm>
#include <utility>

#include <absl/container/flat_hash_map.h>
#include <absl/strings/ascii.h>
#include <fmt/format.h>

#include "analysis/find_member.hpp"
#include "base/text.hpp"
#include "daybook/columns/derived_columns.hpp"

namespace pear::offers {
namespace {

using PlacesById = absl::flat_hash_map<std::string_view, std::uint32_t>;

PlacesById places_by_id(const TextArray& ids) {
  PlacesById places;
  places.reserve(ids.size());
  for (std::uint32_t place = 0; place < ids.size(); ++place) places.emplace(ids[place], place);
  return places;
}

/// Codes of products in a list "P1,P2".
OrError<std::vector<std::uint32_t>> listed(const daybook::Daybook& daybook, const std::string& option,
                                           const std::string& list) {
  std::vector<std::uint32_t> products;
  for (std::string& text : comma_separated(list)) {
    absl::StripAsciiWhitespace(&text);
    if (text.empty())
      return usage_error(
          fmt::format("--{} {}: there is no product between two commas.", option, in_quotes(list)));
    auto found = analysis::find_one(daybook, daybook::Level::product, text);
    if (!found)
      return tl::unexpected(
          Error{found.error().kind, fmt::format("--{}: {}", option, found.error().message)});
    products.push_back(*found);
  }
  return products;
}

/// Pieces by product, of a list with the columns product_id and pieces.
OrError<std::vector<std::int64_t>> stock_of(const daybook::Daybook& daybook,
                                            const analysis::SideTable& table) {
  PEAR_TRY(table.require("a stock list", {"product_id", "pieces"}));
  const std::size_t products = table.column("product_id"), pieces = table.column("pieces");
  std::vector<std::int64_t> stock(daybook.products(), 0);
  std::vector<std::uint64_t> lines(daybook.products(), 0);
  const auto products_by_id = places_by_id(daybook.product_ids());
  for (std::size_t row = 0; row < table.rows.size(); ++row) {
    const std::string& id = table.rows[row][products];
    const auto count = Decimal::parse(table.rows[row][pieces]);
    if (!count || count->units() < 0)
      return data_error(fmt::format("{}: {} is not a number of pieces, 0 or more.",
                                    table.place_of(row, pieces), in_quotes(table.rows[row][pieces])));
    const auto product = products_by_id.find(id);
    if (product == products_by_id.end()) continue;
    std::uint64_t& line = lines[product->second];
    if (line != 0)
      return data_error(fmt::format("{}: {} is on line {} already. Keep one row for each product.",
                                    table.place_of(row), in_quotes(id), line));
    line = table.lines[row];
    stock[product->second] = count->units() / Decimal::kScale;
  }
  return stock;
}

}  // namespace

OrError<Date> planning_day(const analysis::QuestionInput& input, const Options& options) {
  if (!options.as_of) return input.data_end;
  const Date as_of = options.as_of->at(input.data_end).last;
  if (as_of > input.data_end)
    return usage_error(
        fmt::format("--as-of {} is later than the end of the data, {}. Import newer sales first.",
                    to_text(as_of), to_text(input.data_end)));
  const Date first = *input.population.first_date;
  if (as_of < first)
    return usage_error(fmt::format("--as-of {} is earlier than the first sale, {}. Choose a later day.",
                                   to_text(as_of), to_text(first)));
  return as_of;
}

OrError<recommender::Constraints> constraints_of(const analysis::QuestionInput& input,
                                                 const Options& options) {
  constexpr double kMinProbability = 0.01;
  const daybook::Daybook& daybook = input.daybook;
  const bool has_margins = !daybook::known_margins(daybook).empty();
  recommender::Constraints constraints;
  constraints.per_customer = static_cast<std::size_t>(options.per_customer);
  constraints.min_probability = options.min_probability.value_or(kMinProbability);
  constraints.rank_by =
      options.rank_by.value_or(has_margins ? recommender::RankBy::margin : recommender::RankBy::amount);
  constraints.uplift = options.uplift;
  constraints.method = options.method;
  if (constraints.rank_by == recommender::RankBy::margin && !has_margins)
    return usage_error(
        "--rank-by margin needs costs, but the daybook has no unit_cost. Use amount or probability.");
  constraints.allowed.assign(daybook.products(), options.only ? 0 : 1);
  if (options.only) {
    PEAR_ASSIGN(const auto products, listed(daybook, "only", *options.only));
    for (const std::uint32_t product : products) constraints.allowed[product] = 1;
  }
  if (options.exclude) {
    PEAR_ASSIGN(const auto products, listed(daybook, "exclude", *options.exclude));
    for (const std::uint32_t product : products) constraints.allowed[product] = 0;
  }
  if (options.stock) {
    PEAR_ASSIGN(constraints.stock, stock_of(daybook, input.side_tables.at("stock")));
  }
  if (options.budget) constraints.budget = static_cast<std::size_t>(*options.budget);
  return constraints;
}

std::vector<std::string> never_sold(const analysis::QuestionInput& input) {
  const analysis::SideTable& table = input.side_tables.at("stock");
  const std::size_t products = table.column("product_id");
  const PlacesById known = places_by_id(input.daybook.product_ids());
  std::vector<std::string> unknown;
  for (const auto& row : table.rows)
    if (!known.contains(row[products])) unknown.push_back(row[products]);
  return unknown;
}

std::vector<std::uint8_t> planned_of(const analysis::QuestionInput& input) {
  return input.chosen_customers.empty() ? std::vector<std::uint8_t>(input.daybook.customers(), 1)
                                        : input.chosen_customers;
}

void note_choice(const analysis::QuestionInput& input, result::Result& result) {
  if (input.chosen_customers.empty()) return;
  result.notes.push_back(
      fmt::format("Planned for {} of the {}; learned from all.",
                  with_thousands(std::count(input.chosen_customers.begin(), input.chosen_customers.end(), 1)),
                  counted(input.chosen_customers.size(), "customer")));
}

mining::Histories histories_until(const analysis::QuestionInput& input, const expression::GroupKey& products,
                                  Date day) {
  mining::SequenceRule rule;
  rule.repeats = mining::Repeats::all;
  mining::Histories histories = mining::gather_histories(input.daybook, products, rule);
  return day < *input.population.last_date ? recommender::known_by(histories, day) : std::move(histories);
}

}  // namespace pear::offers
