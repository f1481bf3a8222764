// The statements of sequence: about the first purchases of each customer.
#pragma once

#include <cstdint>
#include <functional>
#include <map>
#include <string>
#include <utility>
#include <vector>

#include "base/date.hpp"
#include "base/error.hpp"
#include "mining/purchase_histories.hpp"
#include "pushdown/basket_items.hpp"
#include "questions/sequence/pair_days.hpp"

namespace pear::pushdown {

using ItemPair = std::pair<std::uint32_t, std::uint32_t>;  ///< the earlier item and the later one

/// The customers of two items, in this order.
struct TwoItems {
  std::uint32_t within_gaps = 0, one_way = 0;  ///< see Transition::both and one_way
};
using FoundItems = std::map<ItemPair, TwoItems>;

/// Borrows the lines and the rule. Errors of all: io and data.
class FirstPurchaseStatements {
 public:
  FirstPurchaseStatements(const SelectedLines& lines, const SqlKey& item, const mining::SequenceRule& rule,
                          Date data_end);

  /// The numbers of customers: all, and by item.
  OrError<void> count_customers(const Items& items, mining::Histories& histories) const;

  /// The pairs of items that so many customers bought in either order, and those with the item `about`.
  [[nodiscard]] OrError<FoundItems> pairs(const Items& items, std::uint32_t least,
                                          const std::string& about) const;

  /// The days of the steps of some pairs. So few rows of the many that customers have are counted by day.
  [[nodiscard]] OrError<std::map<ItemPair, sequence::PairDays>> days_of_pairs(
      const Items& items, const std::vector<ItemPair>& pairs) const;

  /// Takes the customers who took a step out of those who were only observed: `ends` has all who bought the
  /// earlier item.
  OrError<void> take_ends(const Items& items, std::map<ItemPair, sequence::PairDays>& pairs) const;

  /// For how many days the customers of each item were observed, of items of so many customers.
  [[nodiscard]] OrError<std::vector<sequence::FollowedDays>> followed(const Items& items,
                                                                      std::uint32_t least) const;

  /// The curves of some pairs, day by day; `followed` is by item.
  [[nodiscard]] OrError<std::map<ItemPair, std::vector<statistics::SurvivalDay>>> curves(
      const Items& items, const std::vector<ItemPair>& pairs,
      const std::vector<sequence::FollowedDays>& followed) const;

 private:
  [[nodiscard]] OrError<SqlRows> rows(const std::string& select,
                                      const std::vector<std::string>& columns) const;

  static OrError<std::int32_t> day_in(const SqlValue& value);
  static OrError<ItemPair> pair_in(const std::vector<SqlValue>& row, const Items& items);

  [[nodiscard]] std::string within_gaps(const std::string& days) const;
  [[nodiscard]] std::string followed_from(const std::string& day) const {
    return dialect_.days_between(dialect_.date_literal(data_end_), day);
  }
  /// The lines' queries, pear_firsts, and pear_wanted: these pairs, by their texts in the database.
  [[nodiscard]] std::string with_wanted(const Items& items, const std::vector<ItemPair>& pairs) const;
  /// Every step of every customer from one item of a wanted pair to the other.
  [[nodiscard]] std::string steps() const;
  [[nodiscard]] std::string is_item(const std::string& column, const std::string& text) const;
  /// use(pair, day, customers) for each value of a column of steps(), up to the last day of interest.
  OrError<void> each_day(const std::string& of, const Items& items, const std::vector<ItemPair>& pairs,
                         const std::function<void(ItemPair, std::int32_t, std::uint32_t)>& use) const;

  const SelectedLines& lines_;
  const Dialect& dialect_;
  const mining::SequenceRule& rule_;
  Date data_end_;
  bool is_text_;  ///< whether items are texts in the database
  std::string with_;
};

}  // namespace pear::pushdown
