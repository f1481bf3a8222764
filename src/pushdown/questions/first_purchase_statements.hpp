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

  /// The days of the steps of each pair of so many customers, or with the item `about`.
  [[nodiscard]] OrError<std::map<ItemPair, sequence::PairDays>> days_of_pairs(const Items& items,
                                                                              std::uint32_t least,
                                                                              const std::string& about) const;

  /// Takes the customers who took a step out of those who were only observed: `ends` has all who bought the
  /// earlier item.
  OrError<void> take_ends(const Items& items, std::uint32_t least, const std::string& about,
                          std::map<ItemPair, sequence::PairDays>& pairs) const;

  /// For how many days the customers of each item were observed, of items of so many customers.
  [[nodiscard]] OrError<std::vector<sequence::FollowedDays>> followed(const Items& items,
                                                                      std::uint32_t least) const;

  /// The curve of one pair, day by day.
  [[nodiscard]] OrError<std::vector<statistics::SurvivalDay>> curve(
      const std::string& earlier, const std::string& later, const sequence::FollowedDays& followed) const;

 private:
  [[nodiscard]] OrError<SqlRows> rows(const std::string& select,
                                      const std::vector<std::string>& columns) const;

  static OrError<std::int32_t> day_in(const SqlValue& value);
  static OrError<ItemPair> pair_in(const std::vector<SqlValue>& row, const Items& items);

  [[nodiscard]] std::string within_gaps(const std::string& days) const;
  [[nodiscard]] std::string followed_from(const std::string& day) const {
    return dialect_.days_between(dialect_.date_literal(data_end_), day);
  }
  /// Every step of every customer.
  [[nodiscard]] std::string steps() const;
  [[nodiscard]] std::string is_item(const std::string& column, const std::string& text) const;
  [[nodiscard]] std::string involves(const std::string& about) const;
  [[nodiscard]] std::string wanted(std::uint32_t least, const std::string& about) const;

  /// The steps of wanted pairs by a column of steps(), with how many of their pair there are, and how many up
  /// to this value.
  [[nodiscard]] std::string counted(const std::string& of, std::uint32_t least,
                                    const std::string& about) const;
  /// use(pair, day, customers) for each value of a column of steps(), up to the last day of interest.
  OrError<void> each_day(const std::string& of, const Items& items, std::uint32_t least,
                         const std::string& about,
                         const std::function<void(ItemPair, std::int32_t, std::uint32_t)>& use) const;

  const SelectedLines& lines_;
  const Dialect& dialect_;
  const mining::SequenceRule& rule_;
  Date data_end_;
  std::string with_;
};

}  // namespace pear::pushdown
