#include "questions/first/entry_products.hpp"

#include <algorithm>
#include <limits>
#include <utility>

#include "analysis/parallel_fold.hpp"
#include "daybook/purchases.hpp"
#include "daybook/walk_lines.hpp"
#include "result/table.hpp"
#include "statistics/quantile.hpp"
#include "statistics/significance.hpp"

namespace pear::first {
namespace {

/// The customers whose first order contains one code.
struct Sums {
  std::uint64_t new_customers = 0, followed = 0, later_orders = 0;
  DecimalSum later_amount;
};

struct EntryState {
  std::vector<Sums> sums;                                    ///< by code
  std::vector<std::pair<std::uint32_t, std::int32_t>> days;  ///< codes, and days to the second order
  std::vector<std::uint32_t> codes;                          ///< of the current customer
};

class EntryCounter {
 public:
  EntryCounter(const daybook::Daybook& daybook, const expression::GroupKey& key,
               const std::vector<FirstOrders>& beginnings)
      : daybook_(daybook),
        key_(key),
        beginnings_(beginnings),
        purchases_(daybook),
        products_(daybook.line_products()) {}

  void absorb(EntryState& state, std::uint32_t customer) const {
    const FirstOrders& beginning = beginnings_[customer];
    if (!beginning.is_new) return;
    state.codes.clear();
    const daybook::Run lines = daybook_.lines_of(beginning.first);
    for (std::uint32_t line = lines.begin; line < lines.end; ++line) {
      const daybook::LinePlace place{line, beginning.first, customer, products_[line]};
      if (purchases_.is_of_product(line)) state.codes.push_back(key_.codes[place.member(key_.level)]);
    }
    std::sort(state.codes.begin(), state.codes.end());
    state.codes.erase(std::unique(state.codes.begin(), state.codes.end()), state.codes.end());
    for (const std::uint32_t code : state.codes) {
      Sums& sums = state.sums[code];
      ++sums.new_customers;
      if (!beginning.followed) continue;
      ++sums.followed;
      sums.later_orders += beginning.later_orders;
      sums.later_amount.add(Decimal::from_units(beginning.later_amount));
      if (beginning.ordered_again())
        state.days.emplace_back(code, days_between(daybook_.date_of_order(beginning.first),
                                                   daybook_.date_of_order(beginning.second)));
    }
  }

 private:
  const daybook::Daybook& daybook_;
  const expression::GroupKey& key_;
  const std::vector<FirstOrders>& beginnings_;
  daybook::Purchases purchases_;
  std::span<const std::uint32_t> products_;
};

void merge(EntryState& earlier, const EntryState& later) {
  for (std::size_t code = 0; code < earlier.sums.size(); ++code) {
    Sums& sums = earlier.sums[code];
    const Sums& more = later.sums[code];
    sums.new_customers += more.new_customers;
    sums.followed += more.followed;
    sums.later_orders += more.later_orders;
    sums.later_amount.add(more.later_amount);
  }
  earlier.days.insert(earlier.days.end(), later.days.begin(), later.days.end());
}

/// Error: data, if a mean is out of the range of Decimal.
OrError<Entry> entry_of(std::uint32_t code, const Sums& sums, std::vector<std::int32_t>& days) {
  Entry entry{code,
              sums.new_customers,
              sums.followed,
              days.size(),
              result::kEmptyCell,
              result::kEmptyCell,
              result::kEmptyCell,
              std::numeric_limits<double>::quiet_NaN()};
  if (const auto median = statistics::quantile_of(days, statistics::kHalf)) entry.days_median = *median;
  if (entry.followed == 0) return entry;
  DecimalSum orders;
  orders.add(Decimal::from_units(static_cast<std::int64_t>(sums.later_orders) * Decimal::kScale));
  const auto amount = sums.later_amount.mean(sums.followed);
  if (!amount)
    return data_error(
        "the later amounts of entry products add up to more than 922,337,203,685,477. Look for wrong "
        "prices.");
  entry.later_orders = orders.mean(sums.followed)->units();
  entry.later_amount = amount->units();
  return entry;
}

}  // namespace

void set_q_values(Entries& all, std::uint64_t at_least) {
  std::vector<double> p_values;
  for (const Entry& entry : all.entries)
    if (entry.followed >= at_least)
      p_values.push_back(
          statistics::fisher_test(entry.ordered_again, entry.followed, all.ordered_again, all.followed));
  const std::vector<double> q_values = statistics::q_values(p_values, p_values.size());
  auto q = q_values.begin();
  for (Entry& entry : all.entries)
    if (entry.followed >= at_least) entry.q_value = *q++;
}

OrError<Entries> entry_products_of(const daybook::Daybook& daybook, const expression::GroupKey& key,
                                   const std::vector<FirstOrders>& beginnings) {
  const EntryCounter counter(daybook, key, beginnings);
  const EntryState state = analysis::fold_customers(
      daybook,
      [&] {
        return EntryState{std::vector<Sums>(key.distinct + 1), {}, {}};
      },
      [&](EntryState& own, std::uint32_t customer) { counter.absorb(own, customer); }, merge);
  std::vector<std::vector<std::int32_t>> days(state.sums.size());
  for (const auto& [code, to_second] : state.days) days[code].push_back(to_second);
  Entries entries;
  for (std::uint32_t code = 0; code < state.sums.size(); ++code) {
    if (state.sums[code].new_customers == 0) continue;
    PEAR_ASSIGN(const Entry entry, entry_of(code, state.sums[code], days[code]));
    entries.entries.push_back(entry);
  }
  std::stable_sort(entries.entries.begin(), entries.entries.end(),
                   [](const Entry& a, const Entry& b) { return a.new_customers > b.new_customers; });
  for (const FirstOrders& beginning : beginnings) {
    if (!beginning.is_new) continue;
    ++entries.customers;
    entries.followed += beginning.followed ? 1U : 0U;
    entries.ordered_again += beginning.followed && beginning.ordered_again() ? 1U : 0U;
  }
  return entries;
}

}  // namespace pear::first
