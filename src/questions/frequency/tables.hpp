// The tables of frequency.
#pragma once

#include "questions/frequency/counts.hpp"
#include "result/result.hpp"

namespace pear::frequency {

/// All that frequency found.
struct Finding {
  Options options;
  analysis::CustomerGroups groups;
  OrderCounts orders;
  CustomerValues values;
  Distribution distribution;

  [[nodiscard]] OrderFacts all_groups() const;
  /// Customers of a group who are in the distribution.
  [[nodiscard]] std::uint64_t customers(std::uint32_t group) const;
  [[nodiscard]] std::uint64_t customers() const;
  /// " in their first 90 days"; empty without a window.
  [[nodiscard]] std::string in_window() const;
  /// "orders", "products": what is counted.
  [[nodiscard]] std::string noun() const;
};

/// Customers by number or band, the groups behind one another.
[[nodiscard]] result::Table distribution_table(const Finding& finding);
/// Who came back, and the days between orders, of each group and of all.
[[nodiscard]] result::Table summary_table(const Finding& finding);
/// The customers of each row of the distribution.
[[nodiscard]] result::Table list_table(const Finding& finding, const daybook::Daybook& daybook);

[[nodiscard]] std::vector<std::string> headline_of(const Finding& finding);
/// Takes the finding, whose distribution it fills up.
[[nodiscard]] result::Figure figure_of(Finding finding, const std::vector<std::string>& headline);

}  // namespace pear::frequency
