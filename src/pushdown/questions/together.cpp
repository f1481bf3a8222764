#include "pushdown/questions/together.hpp"

#include <algorithm>
#include <map>
#include <utility>

#include <fmt/format.h>

#include "base/text.hpp"
#include "pushdown/basket_items.hpp"
#include "pushdown/doubled_support.hpp"
#include "pushdown/members_in_sql.hpp"
#include "questions/together/question.hpp"

namespace pear::pushdown {
namespace {

using mining::BasketRule;

/// A pair of items in some baskets.
struct FoundPair {
  std::uint32_t both = 0;
  std::uint64_t squares = 0;
  DecimalSum amount, margin;
};
using FoundPairs = std::map<std::pair<std::uint32_t, std::uint32_t>, FoundPair>;

/// The baskets of one size in one month.
struct Size {
  Month month;
  std::size_t size = 0;
  std::uint64_t baskets = 0;
};

/// What the null model keeps of the baskets, by period, and all of them added up.
struct Margins {
  mining::ModelPeriod period;
  std::int32_t first_period = 0;
  std::vector<mining::BasketMargins> periods;
  together::BasketTotals totals;

  [[nodiscard]] std::size_t place_of(Month month) const {
    return static_cast<std::size_t>(period.of(month) - first_period);
  }
};

/// The statements about baskets.
class BasketStatements {
 public:
  BasketStatements(const BasketRule& rule, const SqlKey& item, const SelectedLines& lines)
      : lines_(lines),
        dialect_(lines.scope.dialect),
        is_history_(rule.within == BasketRule::Within::customer),
        with_(with_items(rule, item, lines)) {}

  [[nodiscard]] OrError<Margins> margins(const Items& items) const {
    PEAR_ASSIGN(const std::vector<Size> sizes, read_sizes());
    Margins made;
    Month first{std::numeric_limits<std::int32_t>::max()}, last{};
    for (const Size& each : sizes) {
      made.totals.baskets += each.baskets;
      made.totals.items += each.baskets * each.size;
      if (each.size == 1) made.totals.single += each.baskets;
      first = std::min(first, each.month);
      last = std::max(last, each.month);
    }
    const std::size_t codes = items.key.distinct;
    if (!sizes.empty()) {
      if (!is_history_) made.period = mining::choose_period(first, last, made.totals.baskets, codes);
      made.first_period = made.period.of(first);
      made.periods.assign(made.place_of(last) + 1, {std::vector<std::uint32_t>(codes), {}});
    }
    for (const Size& each : sizes) {
      std::vector<double>& of_period = made.periods[made.place_of(each.month)].sizes;
      if (of_period.size() <= each.size) of_period.resize(each.size + 1);
      of_period[each.size] += static_cast<double>(each.baskets);
    }
    PEAR_TRY(add_counts(items, made));
    return made;
  }

  /// Pairs of items that are in at least so many baskets.
  [[nodiscard]] OrError<FoundPairs> pairs_of_frequent(const Items& items, std::uint32_t least) const {
    return pairs(
        items,
        fmt::format(
            "(SELECT * FROM pear_items WHERE item IN (SELECT item FROM pear_items GROUP BY item HAVING "
            "COUNT(*) >= {}))",
            least),
        "a.item < b.item");
  }

  /// Pairs with one item.
  [[nodiscard]] OrError<FoundPairs> pairs_with(const Items& items, std::uint32_t code) const {
    std::string text;
    for (const auto& [each, of] : items.codes)
      if (of == code) text = each;
    return pairs(items, "pear_items",
                 fmt::format("CAST(a.item AS {1}) = {0} AND CAST(b.item AS {1}) <> {0}", text_literal(text),
                             dialect_.text_type()));
  }

 private:
  [[nodiscard]] OrError<SqlRows> rows(const std::string& select,
                                      const std::vector<std::string>& columns) const {
    return lines_.session.rows(with_, select, columns);
  }

  [[nodiscard]] OrError<std::vector<Size>> read_sizes() const {
    PEAR_ASSIGN(
        const SqlRows counted,
        rows(fmt::format(
                 "SELECT in_month, size, COUNT(*) AS n FROM (SELECT customer_id, basket, {} AS in_month, "
                 "COUNT(*) AS size FROM pear_items GROUP BY customer_id, basket) AS pear_baskets GROUP "
                 "BY in_month, size",
                 dialect_.month_index("MIN(on_day)")),
             {"in_month", "size", "n"}));
    std::vector<Size> sizes;
    for (const auto& row : counted) {
      PEAR_ASSIGN(const std::int64_t month, whole64(row[0]));
      PEAR_ASSIGN(const std::int64_t size, whole64(row[1]));
      PEAR_ASSIGN(const std::int64_t n, whole64(row[2]));
      sizes.push_back({Month{static_cast<std::int32_t>(month)}, static_cast<std::size_t>(size),
                       static_cast<std::uint64_t>(n)});
    }
    return sizes;
  }

  OrError<void> add_counts(const Items& items, Margins& made) const {
    const std::string baskets =
        "SELECT item, MIN(on_day) OVER (PARTITION BY customer_id, basket) AS on_day, COUNT(*) OVER "
        "(PARTITION BY "
        "customer_id, basket) AS size FROM pear_items";
    const std::string by_month = fmt::format("SELECT {} AS in_month, item, size FROM ({}) AS pear_baskets",
                                             dialect_.month_index("on_day"), baskets);
    const std::string period = made.period.months == 0
                                   ? "0"
                                   : fmt::format("in_month / {} - {}", made.period.months, made.first_period);
    PEAR_ASSIGN(
        const SqlRows counts,
        rows(fmt::format(
                 "SELECT {} AS in_period, item, COUNT(*) AS n, COUNT(CASE WHEN size = 1 THEN 1 END) AS "
                 "single FROM ({}) AS pear_months GROUP BY {}item",
                 period, by_month, made.period.months == 0 ? "" : period + ", "),
             {"in_period", "item", "n", "single"}));
    together::BasketTotals& totals = made.totals;
    totals.counts.assign(items.key.distinct, 0);
    totals.single_item.assign(items.key.distinct, 0);
    for (const auto& row : counts) {
      PEAR_ASSIGN(const std::int64_t of, whole64(row[0]));
      PEAR_ASSIGN(const std::int64_t n, whole64(row[2]));
      PEAR_ASSIGN(const std::int64_t single, whole64(row[3]));
      PEAR_ASSIGN(const std::uint32_t code, items.code_of(*row[1]));
      made.periods[static_cast<std::size_t>(of)].counts[code] = static_cast<std::uint32_t>(n);
      totals.counts[code] += static_cast<std::uint32_t>(n);
      totals.single_item[code] += static_cast<std::uint32_t>(single);
    }
    return {};
  }

  /// A database that is divided by customer counts the pairs of each customer where the lines are.
  [[nodiscard]] OrError<FoundPairs> pairs(const Items& items, const std::string& from,
                                          const std::string& condition) const {
    const std::string by_customer = fmt::format(
        "SELECT a.customer_id, a.item AS a, b.item AS b, COUNT(*) AS n, SUM(a.amount) + SUM(b.amount) AS "
        "amount, "
        "SUM(a.margin) + SUM(b.margin) AS margin FROM {0} AS a JOIN {0} AS b ON a.customer_id = "
        "b.customer_id AND "
        "a.basket = b.basket AND {1} GROUP BY a.customer_id, a.item, b.item",
        from, condition);
    PEAR_ASSIGN(
        const SqlRows found,
        rows(fmt::format("SELECT a, b, SUM(n) AS baskets, SUM(n * n) AS squares, SUM(amount) AS amount, "
                         "SUM(margin) AS margin FROM ({}) AS pear_pairs GROUP BY a, b",
                         by_customer),
             {"a", "b", "baskets", "squares", "amount", "margin"}));
    FoundPairs made;
    for (const auto& row : found) {
      PEAR_ASSIGN(const std::uint32_t a, items.code_of(*row[0]));
      PEAR_ASSIGN(const std::uint32_t b, items.code_of(*row[1]));
      FoundPair& pair = made[std::minmax(a, b)];
      PEAR_ASSIGN(const std::int64_t both, whole64(row[2]));
      PEAR_ASSIGN(const std::int64_t squares, whole64(row[3]));
      PEAR_ASSIGN(const std::int64_t amount, whole64(row[4]));
      PEAR_ASSIGN(const std::int64_t margin, whole64(row[5]));
      pair.both = static_cast<std::uint32_t>(both);
      pair.squares = static_cast<std::uint64_t>(squares);
      pair.amount.add(Decimal::from_units(amount));
      pair.margin.add(Decimal::from_units(margin));
    }
    return made;
  }

  const SelectedLines& lines_;
  const Dialect& dialect_;
  bool is_history_;
  std::string with_;
};

OrError<together::Options> read_options(const analysis::OptionValues& values) {
  const auto is_given = [&](std::string_view name) {
    return std::any_of(values.begin(), values.end(), [&](const auto& value) { return value.first == name; });
  };
  PEAR_ASSIGN(together::Options options, together::read(values));
  if (!is_given("largest")) options.largest = 2;
  if (!is_given("size")) options.size = 2;
  if (options.largest > 2 || options.size > 2)
    return usage_error(
        fmt::format("--{}: a database counts pairs. Sets of three and more need the baskets: import the "
                    "lines, or a sample of "
                    "customers (--customers 1/50), and ask the daybook.",
                    options.largest > 2 ? "largest" : "size"));
  if (options.only != mining::OnlySets::all)
    return usage_error(
        "--condense compares pairs with sets of three, which need the baskets. Import the lines.");
  PEAR_TRY(check_rule(options.within));
  return options;
}

/// Replaces what --product says of a product by its id. Errors: usage.
OrError<void> find_about(const SelectedLines& lines, const together::BasketTotals& baskets,
                         const Items& items, together::Options& options) {
  PEAR_ASSIGN(options.product, find_product(lines, *options.product));
  return lines.session.explains() || items.codes.contains(*options.product)
             ? OrError<void>()
             : together::in_no_basket(*options.product, baskets);
}

/// Sets the support, and sorts the pairs into those that reach it and those that do not.
OrError<together::MinedSets> sort_pairs(together::Counts& counts, const FoundPairs& pairs) {
  const auto reach = [&](std::uint32_t least) {
    return static_cast<std::size_t>(std::count_if(
        pairs.begin(), pairs.end(), [&](const auto& pair) { return pair.second.both >= least; }));
  };
  if (!counts.options.support) counts.least = doubled_support(counts.least, together::kMostPairs, reach);
  const auto most = static_cast<std::size_t>(counts.options.at_most);
  if (reach(counts.least) > most)
    return tl::unexpected(too_many_sets(counts, doubled_support(counts.least, most, reach)));
  together::MinedSets sets;
  const std::vector<std::uint32_t>& baskets = counts.baskets.counts;
  for (std::uint32_t code = 0; code < baskets.size(); ++code)
    if (baskets[code] >= counts.least) sets.frequent.add(std::span(&code, 1), baskets[code], baskets[code]);
  for (const auto& [codes, pair] : pairs) {
    if (std::min(baskets[codes.first], baskets[codes.second]) < counts.least) continue;
    const std::array<std::uint32_t, 2> of = {codes.first, codes.second};
    (pair.both >= counts.least ? sets.frequent : sets.rare).add(of, pair.both, pair.squares);
  }
  return sets;
}

}  // namespace

OrError<result::Result> answer_together(const analysis::OptionValues& values, const SelectedLines& lines,
                                        const analysis::QuestionInput& input) {
  PEAR_ASSIGN(together::Options options, read_options(values));
  PEAR_ASSIGN(auto of_schema, mining::basket_key(options.items, lines.scope.schema));
  PEAR_ASSIGN(const SqlKey key, item_key(options.items, lines));
  PEAR_ASSIGN(Items items, read_items(key, lines));
  const BasketStatements statements(options.within, key, lines);
  PEAR_ASSIGN(Margins margins, statements.margins(items));
  if (options.product && items.key.source == daybook::role::kProductId)
    PEAR_TRY(find_about(lines, margins.totals, items, options));
  auto named = together::of_baskets(input, options, {items.key, std::move(of_schema.second)}, margins.totals);
  if (!named && !lines.session.explains()) return tl::unexpected(std::move(named.error()));
  const std::uint32_t least = !named            ? 1
                              : options.support ? options.support->of(named->baskets.size())
                                                : together::usual_support(*named);
  PEAR_ASSIGN(FoundPairs pairs, statements.pairs_of_frequent(items, least));
  FoundPairs companions;
  if (options.product) {
    PEAR_ASSIGN(companions, statements.pairs_with(items, named ? named->about.value_or(0) : 0));
  }
  PEAR_ASSIGN(const bool has_margins, knows_margins(lines));
  if (lines.session.explains()) return result::Result{};
  together::Counts& counts = *named;
  counts.least = least;
  counts.has_margins = has_margins;
  PEAR_ASSIGN(together::MinedSets mined, sort_pairs(counts, pairs));
  for (const auto& [codes, pair] : companions)
    mined.companions.add(std::array<std::uint32_t, 2>{codes.first, codes.second}, pair.both, pair.squares);
  const mining::AssociationTests tests(counts.baskets.counts,
                                       mining::BasketNullModel(std::move(margins.periods), margins.period));
  PEAR_TRY(find_together(counts, mined, tests, [&](std::vector<together::ItemPair>& listed) -> OrError<void> {
    for (together::ItemPair& pair : listed) {
      const FoundPairs& of = counts.about ? companions : pairs;
      const FoundPair& found = of.at(std::minmax(pair.a, pair.b));
      pair.amount = found.amount;
      pair.margin = found.margin;
    }
    return {};
  }));
  return together::result_of(counts);
}

}  // namespace pear::pushdown
