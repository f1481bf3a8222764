#include "pushdown/questions/sequence.hpp"

#include <algorithm>
#include <map>
#include <utility>

#include <absl/container/flat_hash_map.h>
#include <absl/strings/str_split.h>
#include <fmt/format.h>

#include "analysis/find_member.hpp"
#include "base/text.hpp"
#include "pushdown/basket_items.hpp"
#include "pushdown/members_in_sql.hpp"
#include "questions/sequence/pair_days.hpp"
#include "questions/sequence/question.hpp"

namespace pear::pushdown {
namespace {

using sequence::Transition;
using Pair = std::pair<std::uint32_t, std::uint32_t>;  ///< the earlier item and the later one

/// The customers of two items, in this order.
struct TwoItems {
  std::uint32_t within_gaps = 0, one_way = 0;  ///< see Transition::both and one_way
};
using FoundItems = std::map<Pair, TwoItems>;

OrError<std::uint32_t> number_in(const SqlValue& value) {
  PEAR_ASSIGN(const std::int64_t number, whole64(value));
  return static_cast<std::uint32_t>(number);
}

/// The statements about the first purchases of each customer.
class FirstPurchaseStatements {
 public:
  FirstPurchaseStatements(const SelectedLines& lines, const SqlKey& item, const mining::SequenceRule& rule,
                          Date data_end)
      : lines_(lines), dialect_(lines.scope.dialect), rule_(rule), data_end_(data_end) {
    with_ = with_items({}, item, lines);
    with_.insert(with_.size() - 1,
                 ",\npear_firsts AS (SELECT customer_id, item, MIN(day) AS day FROM pear_items GROUP BY "
                 "customer_id, item)");
  }

  /// The numbers of customers: all, and by item.
  OrError<void> count_customers(const Items& items, mining::Histories& histories) const {
    PEAR_ASSIGN(
        const SqlRows all,
        rows(fmt::format(
                 "SELECT COUNT(*) AS buyers, SUM({}) AS days FROM (SELECT customer_id, MIN(day) AS day FROM "
                 "pear_firsts GROUP BY customer_id) AS pear_buyers",
                 dialect_.days_between("day", dialect_.date_literal(Date{}))),
             {"buyers", "days"}));
    if (!all.empty()) {
      PEAR_ASSIGN(histories.buyers, number_in(all[0][0]));
      PEAR_ASSIGN(histories.first_days, whole64(all[0][1]));
    }
    for (auto* counts : {&histories.counts, &histories.later, &histories.after_any})
      counts->assign(items.key.distinct, 0);
    const std::string placed =
        "SELECT item, day, MIN(day) OVER (PARTITION BY customer_id) AS first_day FROM pear_firsts";
    PEAR_ASSIGN(
        const SqlRows of_items,
        rows(fmt::format("SELECT item, COUNT(*) AS n, COUNT(CASE WHEN day > first_day THEN 1 END) AS later "
                         "FROM ({}) AS pear_placed GROUP BY item",
                         placed),
             {"item", "n", "later"}));
    for (const auto& row : of_items) {
      PEAR_ASSIGN(const std::uint32_t code, items.code_of(*row[0]));
      PEAR_ASSIGN(histories.counts[code], number_in(row[1]));
      PEAR_ASSIGN(histories.later[code], number_in(row[2]));
    }
    if (rule_.min_gap == 1 && rule_.longest_gap() == mining::SequenceRule::kAny) {
      histories.after_any = histories.later;
      return {};
    }
    PEAR_ASSIGN(
        const SqlRows following,
        rows(fmt::format("SELECT item, COUNT(*) AS n FROM pear_firsts AS f WHERE EXISTS (SELECT 1 FROM "
                         "pear_items AS earlier WHERE earlier.customer_id = f.customer_id AND {}) GROUP BY "
                         "item",
                         within_gaps(dialect_.days_between("f.day", "earlier.day"))),
             {"item", "n"}));
    for (const auto& row : following) {
      PEAR_ASSIGN(const std::uint32_t code, items.code_of(*row[0]));
      PEAR_ASSIGN(histories.after_any[code], number_in(row[1]));
    }
    return {};
  }

  /// The pairs of items that so many customers bought in either order, and those with the item `about`.
  [[nodiscard]] OrError<FoundItems> pairs(const Items& items, std::uint32_t least,
                                          const std::string& about) const {
    const std::string days = dialect_.days_between("b.day", "a.day"),
                      back = dialect_.days_between("a.day", "b.day");
    const std::string select = fmt::format(
        "SELECT a.item AS a, b.item AS b, COUNT(CASE WHEN {} THEN 1 END) AS forth, COUNT(CASE WHEN {} THEN 1 "
        "END) "
        "AS back, COUNT(CASE WHEN b.day > a.day THEN 1 END) AS one_way, COUNT(CASE WHEN b.day < a.day THEN 1 "
        "END) "
        "AS other_way FROM pear_firsts AS a JOIN pear_firsts AS b ON a.customer_id = b.customer_id AND "
        "a.item < "
        "b.item GROUP BY a.item, b.item",
        within_gaps(days), within_gaps(back));
    PEAR_ASSIGN(const SqlRows found,
                rows(fmt::format("SELECT * FROM ({}) AS pear_pairs WHERE forth >= {} OR back >= {}{}", select,
                                 least, least, about.empty() ? "" : fmt::format(" OR {}", involves(about))),
                     {"a", "b", "forth", "back", "one_way", "other_way"}));
    FoundItems made;
    for (const auto& row : found) {
      PEAR_ASSIGN(const std::uint32_t a, items.code_of(*row[0]));
      PEAR_ASSIGN(const std::uint32_t b, items.code_of(*row[1]));
      TwoItems &forth = made[{a, b}], &other = made[{b, a}];
      PEAR_ASSIGN(forth.within_gaps, number_in(row[2]));
      PEAR_ASSIGN(other.within_gaps, number_in(row[3]));
      PEAR_ASSIGN(forth.one_way, number_in(row[4]));
      PEAR_ASSIGN(other.one_way, number_in(row[5]));
    }
    return made;
  }

  /// The days of the steps of each pair of so many customers, or with the item `about`.
  [[nodiscard]] OrError<std::map<Pair, sequence::PairDays>> days_of_pairs(const Items& items,
                                                                          std::uint32_t least,
                                                                          const std::string& about) const {
    const std::string of_pair = "PARTITION BY a, b";
    const std::string counted =
        fmt::format("SELECT a, b, days, COUNT(*) AS n FROM ({}) AS pear_steps GROUP BY a, b, days", steps());
    const std::string summed = fmt::format(
        "SELECT a, b, days, n, SUM(n) OVER ({0}) AS total, SUM(n) OVER ({0} ORDER BY days) AS up_to FROM "
        "({1}) AS "
        "pear_days",
        of_pair, counted);
    // See statistics::quantile_rank.
    std::string placed = "SELECT a, b, days, n";
    for (int quarter = 1; quarter <= 3; ++quarter)
      placed += fmt::format(", MIN(CASE WHEN 4 * up_to >= {0} * total THEN days END) OVER ({1}) AS q{0}",
                            quarter, of_pair);
    placed += fmt::format(" FROM ({}) AS pear_sums WHERE {}", summed, wanted(least, about));
    const std::string select = fmt::format(
        "SELECT a, b, MAX(q1) AS q1, MAX(q2) AS q2, MAX(q3) AS q3, SUM(CASE WHEN days >= q1 AND days <= q3 "
        "THEN n "
        "END) AS middle, {} AS events FROM ({}) AS pear_placed GROUP BY a, b",
        joined_days("days", "n"), placed);
    PEAR_ASSIGN(const SqlRows found, rows(select, {"a", "b", "q1", "q2", "q3", "middle", "events"}));
    std::map<Pair, sequence::PairDays> made;
    for (const auto& row : found) {
      PEAR_ASSIGN(const Pair pair, pair_in(row, items));
      const sequence::DayCounts none(sequence::kRateDays.back());
      sequence::PairDays days{{}, 0, none, none};
      PEAR_ASSIGN(days.quartiles.lower, day_in(row[2]));
      PEAR_ASSIGN(days.quartiles.median, day_in(row[3]));
      PEAR_ASSIGN(days.quartiles.upper, day_in(row[4]));
      PEAR_ASSIGN(days.in_middle, number_in(row[5]));
      PEAR_TRY(each_day(row[6], [&](std::int32_t day, std::uint32_t n) { days.events.add(day, n); }));
      made.emplace(pair, std::move(days));
    }
    return made;
  }

  /// Takes the customers who took a step out of those who were only observed: `ends` has all who bought the
  /// earlier item.
  OrError<void> take_ends(const Items& items, std::uint32_t least, const std::string& about,
                          std::map<Pair, sequence::PairDays>& pairs) const {
    const std::string counted = fmt::format(
        "SELECT a, b, followed, COUNT(*) AS n FROM ({}) AS pear_steps GROUP BY a, b, followed", steps());
    const std::string summed = fmt::format(
        "SELECT a, b, followed, n, SUM(n) OVER (PARTITION BY a, b) AS total FROM ({}) AS pear_days", counted);
    PEAR_ASSIGN(const SqlRows found,
                rows(fmt::format("SELECT a, b, {} AS ends FROM ({}) AS pear_sums WHERE {} GROUP BY a, b",
                                 joined_days("followed", "n"), summed, wanted(least, about)),
                     {"a", "b", "ends"}));
    for (const auto& row : found) {
      PEAR_ASSIGN(const Pair pair, pair_in(row, items));
      sequence::DayCounts& ends = pairs.at(pair).ends;
      PEAR_TRY(each_day(row[2], [&](std::int32_t day, std::uint32_t n) { ends.take(day, n); }));
    }
    return {};
  }

  /// For how many days the customers of each item were observed, of items of so many customers.
  [[nodiscard]] OrError<std::vector<sequence::FollowedDays>> followed(const Items& items,
                                                                      std::uint32_t least) const {
    PEAR_ASSIGN(
        const SqlRows found,
        rows(fmt::format(
                 "SELECT item, {} AS followed, COUNT(*) AS n FROM pear_firsts WHERE item IN (SELECT item "
                 "FROM pear_firsts GROUP BY item HAVING COUNT(*) >= {}) GROUP BY item, day ORDER BY "
                 "day DESC",
                 followed_from("day"), least),
             {"item", "followed", "n"}));
    std::vector<sequence::FollowedDays> made(items.key.distinct);
    for (const auto& row : found) {
      PEAR_ASSIGN(const std::uint32_t code, items.code_of(*row[0]));
      PEAR_ASSIGN(const std::int32_t days, day_in(row[1]));
      PEAR_ASSIGN(const std::uint32_t n, number_in(row[2]));
      made[code].add(days, n);
    }
    return made;
  }

  /// The curve of one pair, day by day.
  [[nodiscard]] OrError<std::vector<statistics::SurvivalDay>> curve(
      const std::string& earlier, const std::string& later, const sequence::FollowedDays& followed) const {
    const std::string select = fmt::format(
        "SELECT days, followed, COUNT(*) AS n FROM ({}) AS pear_steps WHERE {} AND {} GROUP BY days, "
        "followed",
        steps(), is_item("a", earlier), is_item("b", later));
    PEAR_ASSIGN(const SqlRows found, rows(select, {"days", "followed", "n"}));
    std::int32_t last = 0;
    for (const auto& row : found) {
      PEAR_ASSIGN(const std::int32_t days, day_in(row[0]));
      last = std::max(last, days);
    }
    sequence::DayCounts events(last), ends = followed.ends(last);
    for (const auto& row : found) {
      PEAR_ASSIGN(const std::int32_t days, day_in(row[0]));
      PEAR_ASSIGN(const std::int32_t until, day_in(row[1]));
      PEAR_ASSIGN(const std::uint32_t n, number_in(row[2]));
      events.add(days, n);
      ends.take(until, n);
    }
    return statistics::kaplan_meier(events.counts(), ends.counts(), followed.customers());
  }

 private:
  [[nodiscard]] OrError<SqlRows> rows(const std::string& select,
                                      const std::vector<std::string>& columns) const {
    return lines_.session.rows(with_, select, columns);
  }

  static OrError<std::int32_t> day_in(const SqlValue& value) {
    PEAR_ASSIGN(const std::int64_t day, whole64(value));
    return static_cast<std::int32_t>(day);
  }
  static OrError<Pair> pair_in(const std::vector<SqlValue>& row, const Items& items) {
    PEAR_ASSIGN(const std::uint32_t a, items.code_of(*row[0]));
    PEAR_ASSIGN(const std::uint32_t b, items.code_of(*row[1]));
    return Pair(a, b);
  }

  [[nodiscard]] std::string within_gaps(const std::string& days) const {
    std::string condition = fmt::format("{} >= {}", days, rule_.min_gap);
    if (const std::int32_t most = rule_.longest_gap(); most != mining::SequenceRule::kAny)
      condition += fmt::format(" AND {} <= {}", days, most);
    return condition;
  }
  [[nodiscard]] std::string followed_from(const std::string& day) const {
    return dialect_.days_between(dialect_.date_literal(data_end_), day);
  }
  /// Every step of every customer.
  [[nodiscard]] std::string steps() const {
    const std::string days = dialect_.days_between("b.day", "a.day");
    return fmt::format(
        "SELECT a.item AS a, b.item AS b, {} AS days, {} AS followed FROM pear_firsts AS a JOIN pear_firsts "
        "AS b ON "
        "a.customer_id = b.customer_id AND a.item <> b.item AND {}",
        days, followed_from("a.day"), within_gaps(days));
  }
  static std::string is_item(const std::string& column, const std::string& text) {
    return fmt::format("CAST({} AS TEXT) = {}", column, text_literal(text));
  }
  static std::string involves(const std::string& about) {
    return fmt::format("{} OR {}", is_item("a", about), is_item("b", about));
  }
  static std::string wanted(std::uint32_t least, const std::string& about) {
    return about.empty() ? fmt::format("total >= {}", least)
                         : fmt::format("(total >= {} OR {})", least, involves(about));
  }

  // Days up to the last of interest with a number of customers each, as one text.
  static constexpr std::int64_t kPerCustomer = 1000;
  static_assert(sequence::kRateDays.back() < kPerCustomer);
  [[nodiscard]] std::string joined_days(const std::string& day, const std::string& n) const {
    return dialect_.joined(fmt::format("CASE WHEN {0} <= {1} THEN {2} * {3} + {0} END", day,
                                       sequence::kRateDays.back(), n, kPerCustomer));
  }
  template <class Use>
  static OrError<void> each_day(const SqlValue& text, const Use& use) {
    if (!text) return {};
    for (const absl::string_view part : absl::StrSplit(*text, kBetweenValues)) {
      PEAR_ASSIGN(const std::int64_t both, whole64(std::string(part)));
      use(static_cast<std::int32_t>(both % kPerCustomer), static_cast<std::uint32_t>(both / kPerCustomer));
    }
    return {};
  }

  const SelectedLines& lines_;
  const Dialect& dialect_;
  const mining::SequenceRule& rule_;
  Date data_end_;
  std::string with_;
};

OrError<sequence::Options> sequence_options(const analysis::OptionValues& values) {
  const bool is_given =
      std::any_of(values.begin(), values.end(), [](const auto& value) { return value.first == "longest"; });
  PEAR_ASSIGN(sequence::Options options, sequence::read(values));
  if (!is_given) options.longest = 2;
  const char* option = options.journey                             ? "journey"
                       : options.longest > 2                       ? "longest"
                       : options.sets                              ? "sets"
                       : options.repeats != mining::Repeats::first ? "repeats"
                       : options.only != mining::OnlySets::all     ? "condense"
                                                                   : nullptr;
  if (option == nullptr) return options;
  return usage_error(fmt::format(
      "--{}: a database counts what customers buy after what, each product at its first purchase. Anything "
      "longer needs the histories: import the lines, or a sample of customers (--customers 1/50), and ask "
      "the daybook.",
      option));
}

/// Replaces what options say of products by their ids. Others must not have it, whether they are in the
/// selection or not. Errors: usage, also for a product that no selected line has.
OrError<void> find_products(const SelectedLines& lines, const Items& items, sequence::Options& options) {
  if (items.key.source != daybook::role::kProductId || lines.session.explains()) return {};
  if (!options.product && !options.starts_with && !options.ends_with) return {};
  PEAR_ASSIGN(const daybook::Daybook all, members_of(lines, false, true, "pear_all_lines"));
  for (auto* text : {&options.product, &options.starts_with, &options.ends_with}) {
    if (!*text) continue;
    PEAR_ASSIGN(const std::uint32_t product, analysis::find_one(all, daybook::Level::product, **text));
    *text = all.product_ids()[product];
    if (!items.codes.contains(**text))
      return usage_error(fmt::format("no selected line has the product {}.", **text));
  }
  return {};
}

/// The text by which the database knows an item.
std::string text_of(const Items& items, std::uint32_t code) {
  for (const auto& [text, of] : items.codes)
    if (of == code) return text;
  return {};
}

/// Sets the support, and the numbers of the pairs that reach it.
OrError<void> add_pairs(sequence::Counts& counts, const FoundItems& found) {
  const auto reach = [&](std::uint32_t least) {
    return static_cast<std::size_t>(std::count_if(
        found.begin(), found.end(), [&](const auto& each) { return each.second.within_gaps >= least; }));
  };
  while (!counts.options.support && reach(counts.least) > sequence::kMostSequences) counts.least *= 2;
  if (const auto most = static_cast<std::size_t>(counts.options.at_most); reach(counts.least) > most) {
    std::uint32_t fits = counts.least;
    while (reach(fits) > most) fits *= 2;
    return sequence::too_many_sequences(counts, fits);
  }
  for (const auto& [items, two] : found) {
    const bool is_asked = counts.about == items.first || counts.about == items.second;
    if (two.within_gaps == 0 || (two.within_gaps < counts.least && !is_asked)) continue;
    const TwoItems& back = found.at({items.second, items.first});
    Transition pair;
    pair.earlier = items.first, pair.later = items.second;
    pair.both = two.within_gaps, pair.reverse = back.within_gaps;
    pair.one_way = two.one_way, pair.other_way = back.one_way;
    counts.next.pairs.push_back(pair);
  }
  return {};
}

/// The pairs that reach the support, as sequences of two steps.
void add_sequences(sequence::Counts& counts) {
  for (const Transition* pair : counts.pairs) {
    const bool is_wanted = (!counts.starts || pair->earlier == counts.starts) &&
                           (!counts.ends || pair->later == counts.ends) && pair->both >= counts.least;
    if (!is_wanted) continue;
    sequence::ListedSequence listed;
    listed.items = {mining::StepItem(pair->earlier, true), mining::StepItem(pair->later, true)};
    listed.facts.customers = pair->both;
    listed.facts.last_days = listed.facts.all_days = pair->days_median;
    listed.step_days = {pair->days_median};
    listed.given = counts.histories.counts[pair->earlier];
    listed.least_lift = counts.lift(*pair);
    listed.sure_lift = counts.sure_lift(*pair);
    listed.least_ratio = pair->rate_ratio;
    listed.sure_ratio = pair->sure_ratio;
    listed.is_found = counts.is_found(*pair);
    counts.sequences.push_back(std::move(listed));
  }
  sequence::sort_sequences(counts);
}

}  // namespace

OrError<result::Result> answer_sequence(const analysis::OptionValues& values, const SelectedLines& lines,
                                        const analysis::QuestionInput& input) {
  PEAR_ASSIGN(sequence::Options options, sequence_options(values));
  PEAR_ASSIGN(auto of_schema, mining::basket_key(options.items, lines.scope.schema));
  PEAR_ASSIGN(const SqlKey key, item_key(options.items, lines));
  PEAR_ASSIGN(const Items items, read_items(key, lines));
  PEAR_TRY(find_products(lines, items, options));
  const bool explains = lines.session.explains();
  if (explains) options.product = options.starts_with = options.ends_with = std::nullopt;
  PEAR_ASSIGN(sequence::Counts counts,
              sequence::without_histories(input, options, {items.key, std::move(of_schema.second)}));
  counts.tests_directions = false;
  const FirstPurchaseStatements statements(lines, key, counts.rule, input.data_end);
  mining::Histories& histories = counts.histories;
  PEAR_TRY(statements.count_customers(items, histories));
  if (!explains &&
      std::all_of(histories.after_any.begin(), histories.after_any.end(), [](auto n) { return n == 0; }))
    return sequence::no_sequence(counts);
  counts.least =
      options.support ? options.support->of(histories.buyers) : sequence::usual_support(histories.buyers);
  const std::string about = counts.about ? text_of(items, *counts.about) : "";
  PEAR_ASSIGN(const FoundItems found, statements.pairs(items, counts.least, about));
  PEAR_TRY(add_pairs(counts, found));
  PEAR_ASSIGN(auto days, statements.days_of_pairs(items, counts.least, about));
  PEAR_ASSIGN(const std::vector<sequence::FollowedDays> followed,
              statements.followed(items, counts.about ? 1 : counts.least));
  for (auto& [pair, of] : days) of.ends = followed[pair.first].ends(sequence::kRateDays.back());
  PEAR_TRY(statements.take_ends(items, counts.least, about, days));
  if (explains) return result::Result{};
  const std::vector<double> usual = sequence::usual_daily_rates(histories, input.data_end);
  for (Transition& pair : counts.next.pairs)
    sequence::set_timing(days.at({pair.earlier, pair.later}), followed[pair.earlier], usual[pair.later],
                         pair);
  sequence::list_pairs(counts);
  add_sequences(counts);
  for (const Transition* pair : sequence::headline_pairs(counts)) {
    PEAR_ASSIGN(auto curve, statements.curve(text_of(items, pair->earlier), text_of(items, pair->later),
                                             followed[pair->earlier]));
    counts.timing.push_back({pair, std::move(curve)});
  }
  return sequence::result_of(counts);
}

}  // namespace pear::pushdown
