#include "pushdown/questions/first_purchase_statements.hpp"

#include <algorithm>

#include <fmt/format.h>

#include "base/text.hpp"

namespace pear::pushdown {
namespace {

OrError<std::uint32_t> number_in(const SqlValue& value) {
  PEAR_ASSIGN(const std::int64_t number, whole64(value));
  return static_cast<std::uint32_t>(number);
}

}  // namespace

FirstPurchaseStatements::FirstPurchaseStatements(const SelectedLines& lines, const SqlKey& item,
                                                 const mining::SequenceRule& rule, Date data_end)
    : lines_(lines),
      dialect_(lines.scope.dialect),
      rule_(rule),
      data_end_(data_end),
      is_text_(item.key.type == expression::ValueType::text) {
  with_ = with_items({}, item, lines);
  with_.insert(with_.size() - 1,
               ",\npear_firsts AS (SELECT customer_id, item, MIN(on_day) AS on_day FROM pear_items GROUP BY "
               "customer_id, item)");
}

OrError<void> FirstPurchaseStatements::count_customers(const Items& items,
                                                       mining::Histories& histories) const {
  PEAR_ASSIGN(const SqlRows all,
              rows(fmt::format("SELECT COUNT(*) AS buyers, SUM({}) AS days FROM (SELECT customer_id, "
                               "MIN(on_day) AS on_day FROM "
                               "pear_firsts GROUP BY customer_id) AS pear_buyers",
                               dialect_.days_between("on_day", dialect_.date_literal(Date{}))),
                   {"buyers", "days"}));
  if (!all.empty()) {
    PEAR_ASSIGN(histories.buyers, number_in(all[0][0]));
    PEAR_ASSIGN(histories.first_days, whole64(all[0][1]));
  }
  for (auto* counts : {&histories.counts, &histories.later, &histories.after_any})
    counts->assign(items.key.distinct, 0);
  const std::string placed =
      "SELECT item, on_day, MIN(on_day) OVER (PARTITION BY customer_id) AS first_day FROM pear_firsts";
  PEAR_ASSIGN(
      const SqlRows of_items,
      rows(fmt::format("SELECT item, COUNT(*) AS n, COUNT(CASE WHEN on_day > first_day THEN 1 END) AS later "
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
                       within_gaps(dialect_.days_between("f.on_day", "earlier.on_day"))),
           {"item", "n"}));
  for (const auto& row : following) {
    PEAR_ASSIGN(const std::uint32_t code, items.code_of(*row[0]));
    PEAR_ASSIGN(histories.after_any[code], number_in(row[1]));
  }
  return {};
}

OrError<FoundItems> FirstPurchaseStatements::pairs(const Items& items, std::uint32_t least,
                                                   const std::string& about) const {
  const std::string days = dialect_.days_between("b.on_day", "a.on_day"),
                    back = dialect_.days_between("a.on_day", "b.on_day");
  const std::string select = fmt::format(
      "SELECT a.item AS a, b.item AS b, COUNT(CASE WHEN {} THEN 1 END) AS forth, COUNT(CASE WHEN {} THEN 1 "
      "END) "
      "AS back, COUNT(CASE WHEN b.on_day > a.on_day THEN 1 END) AS one_way, COUNT(CASE WHEN b.on_day < "
      "a.on_day THEN 1 "
      "END) "
      "AS other_way FROM pear_firsts AS a JOIN pear_firsts AS b ON a.customer_id = b.customer_id AND "
      "a.item < "
      "b.item GROUP BY a.item, b.item",
      within_gaps(days), within_gaps(back));
  PEAR_ASSIGN(
      const SqlRows found,
      rows(fmt::format(
               "SELECT * FROM ({}) AS pear_pairs WHERE forth >= {} OR back >= {}{}", select, least, least,
               about.empty() ? "" : fmt::format(" OR {} OR {}", is_item("a", about), is_item("b", about))),
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

OrError<std::map<ItemPair, sequence::PairDays>> FirstPurchaseStatements::days_of_pairs(
    const Items& items, const std::vector<ItemPair>& pairs) const {
  const std::string counted = fmt::format(
      "SELECT a, b, days, n, SUM(n) OVER (PARTITION BY a, b) AS total, SUM(n) OVER (PARTITION BY a, b ORDER "
      "BY days) "
      "AS up_to FROM (SELECT a, b, days, COUNT(*) AS n FROM ({}) AS pear_steps GROUP BY a, b, days) AS "
      "pear_days",
      steps());
  // See statistics::quantile_rank.
  std::string placed = "SELECT a, b, days, n";
  for (int quarter = 1; quarter <= 3; ++quarter)
    placed += fmt::format(
        ", MIN(CASE WHEN 4 * up_to >= {0} * total THEN days END) OVER (PARTITION BY a, b) AS q{0}", quarter);
  placed += fmt::format(" FROM ({}) AS pear_counted", counted);
  PEAR_ASSIGN(
      const SqlRows found,
      lines_.session.rows(
          with_wanted(items, pairs),
          fmt::format(
              "SELECT a, b, MAX(q1) AS q1, MAX(q2) AS q2, MAX(q3) AS q3, SUM(CASE WHEN days >= q1 AND "
              "days <= q3 THEN n END) AS middle FROM ({}) AS pear_placed GROUP BY a, b",
              placed),
          {"a", "b", "q1", "q2", "q3", "middle"}));
  std::map<ItemPair, sequence::PairDays> made;
  for (const auto& row : found) {
    PEAR_ASSIGN(const ItemPair pair, pair_in(row, items));
    const sequence::DayCounts none(sequence::kRateDays.back());
    sequence::PairDays days{{}, 0, none, none};
    PEAR_ASSIGN(days.quartiles.lower, day_in(row[2]));
    PEAR_ASSIGN(days.quartiles.median, day_in(row[3]));
    PEAR_ASSIGN(days.quartiles.upper, day_in(row[4]));
    PEAR_ASSIGN(days.in_middle, number_in(row[5]));
    made.emplace(pair, std::move(days));
  }
  PEAR_TRY(each_day("days", items, pairs, [&](ItemPair pair, std::int32_t day, std::uint32_t n) {
    made.at(pair).events.add(day, n);
  }));
  return made;
}

OrError<void> FirstPurchaseStatements::take_ends(const Items& items,
                                                 std::map<ItemPair, sequence::PairDays>& pairs) const {
  std::vector<ItemPair> wanted;
  for (const auto& [pair, days] : pairs) wanted.push_back(pair);
  return each_day("followed", items, wanted, [&](ItemPair pair, std::int32_t day, std::uint32_t n) {
    pairs.at(pair).ends.take(day, n);
  });
}

OrError<void> FirstPurchaseStatements::each_day(
    const std::string& of, const Items& items, const std::vector<ItemPair>& pairs,
    const std::function<void(ItemPair, std::int32_t, std::uint32_t)>& use) const {
  PEAR_ASSIGN(
      const SqlRows found,
      lines_.session.rows(with_wanted(items, pairs),
                          fmt::format("SELECT a, b, {0}, COUNT(*) AS n FROM ({1}) AS pear_steps WHERE {0} <= "
                                      "{2} GROUP BY a, b, {0}",
                                      of, steps(), sequence::kRateDays.back()),
                          {"a", "b", of, "n"}));
  for (const auto& row : found) {
    PEAR_ASSIGN(const ItemPair pair, pair_in(row, items));
    PEAR_ASSIGN(const std::int32_t day, day_in(row[2]));
    PEAR_ASSIGN(const std::uint32_t n, number_in(row[3]));
    use(pair, day, n);
  }
  return {};
}

OrError<std::vector<sequence::FollowedDays>> FirstPurchaseStatements::followed(const Items& items,
                                                                               std::uint32_t least) const {
  PEAR_ASSIGN(
      const SqlRows found,
      rows(fmt::format(
               "SELECT item, {} AS followed, COUNT(*) AS n FROM pear_firsts WHERE item IN (SELECT item "
               "FROM pear_firsts GROUP BY item HAVING COUNT(*) >= {}) GROUP BY item, on_day ORDER BY "
               "on_day DESC",
               followed_from("on_day"), least),
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

OrError<std::map<ItemPair, std::vector<statistics::SurvivalDay>>> FirstPurchaseStatements::curves(
    const Items& items, const std::vector<ItemPair>& pairs,
    const std::vector<sequence::FollowedDays>& followed) const {
  PEAR_ASSIGN(const SqlRows found,
              lines_.session.rows(
                  with_wanted(items, pairs),
                  fmt::format("SELECT a, b, days, followed, COUNT(*) AS n FROM ({}) AS pear_steps GROUP "
                              "BY a, b, days, followed",
                              steps()),
                  {"a", "b", "days", "followed", "n"}));
  std::map<ItemPair, std::int32_t> last;
  for (const auto& row : found) {
    PEAR_ASSIGN(const ItemPair pair, pair_in(row, items));
    PEAR_ASSIGN(const std::int32_t days, day_in(row[2]));
    last[pair] = std::max(last[pair], days);
  }
  std::map<ItemPair, std::pair<sequence::DayCounts, sequence::DayCounts>> counts;  // events and ends
  for (const auto& [pair, day] : last)
    counts.emplace(pair, std::pair(sequence::DayCounts(day), followed[pair.first].ends(day)));
  for (const auto& row : found) {
    PEAR_ASSIGN(const ItemPair pair, pair_in(row, items));
    PEAR_ASSIGN(const std::int32_t days, day_in(row[2]));
    PEAR_ASSIGN(const std::int32_t until, day_in(row[3]));
    PEAR_ASSIGN(const std::uint32_t n, number_in(row[4]));
    auto& [events, ends] = counts.at(pair);
    events.add(days, n);
    ends.take(until, n);
  }
  std::map<ItemPair, std::vector<statistics::SurvivalDay>> made;
  for (const auto& [pair, of] : counts)
    made.emplace(pair, statistics::kaplan_meier(of.first.counts(), of.second.counts(),
                                                followed[pair.first].customers()));
  return made;
}

OrError<SqlRows> FirstPurchaseStatements::rows(const std::string& select,
                                               const std::vector<std::string>& columns) const {
  return lines_.session.rows(with_, select, columns);
}

OrError<std::int32_t> FirstPurchaseStatements::day_in(const SqlValue& value) {
  PEAR_ASSIGN(const std::int64_t day, whole64(value));
  return static_cast<std::int32_t>(day);
}

OrError<ItemPair> FirstPurchaseStatements::pair_in(const std::vector<SqlValue>& row, const Items& items) {
  PEAR_ASSIGN(const std::uint32_t a, items.code_of(*row[0]));
  PEAR_ASSIGN(const std::uint32_t b, items.code_of(*row[1]));
  return ItemPair(a, b);
}

std::string FirstPurchaseStatements::within_gaps(const std::string& days) const {
  std::string condition = fmt::format("{} >= {}", days, rule_.min_gap);
  if (const std::int32_t most = rule_.longest_gap(); most != mining::SequenceRule::kAny)
    condition += fmt::format(" AND {} <= {}", days, most);
  return condition;
}

std::string FirstPurchaseStatements::with_wanted(const Items& items,
                                                 const std::vector<ItemPair>& pairs) const {
  std::vector<std::string> texts(items.key.distinct, "''"), rows;
  for (const auto& [text, code] : items.codes) texts[code] = text_literal(text);
  for (const ItemPair& pair : pairs)
    rows.push_back(fmt::format("({}, {})", texts[pair.first], texts[pair.second]));
  if (rows.empty()) rows.emplace_back("('', '')");  // VALUES needs a row: of no item
  std::string with = with_;
  with.insert(with.size() - 1, fmt::format(",\npear_wanted (a, b) AS (VALUES {})", join(rows, ", ")));
  return with;
}

std::string FirstPurchaseStatements::steps() const {
  const std::string days = dialect_.days_between("b.on_day", "a.on_day");
  // Without a conversion, a database finds an item by its hash or an index.
  const std::string item = is_text_ ? "{}.item" : fmt::format("CAST({{}}.item AS {})", dialect_.text_type());
  return fmt::format(
      "SELECT pear_wanted.a AS a, pear_wanted.b AS b, {0} AS days, {1} AS followed FROM pear_wanted JOIN "
      "pear_firsts AS a ON {3} = pear_wanted.a JOIN pear_firsts AS b ON a.customer_id = b.customer_id AND "
      "{4} "
      "= pear_wanted.b AND {2}",
      days, followed_from("a.on_day"), within_gaps(days), fmt::format(fmt::runtime(item), "a"),
      fmt::format(fmt::runtime(item), "b"));
}

std::string FirstPurchaseStatements::is_item(const std::string& column, const std::string& text) const {
  return fmt::format("CAST({} AS {}) = {}", column, dialect_.text_type(), text_literal(text));
}

}  // namespace pear::pushdown
