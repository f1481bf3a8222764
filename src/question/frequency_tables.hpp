// The tables of frequency.
#pragma once

#include "question/frequency_counts.hpp"
#include "result/result.hpp"

namespace pear {

/// All that frequency found.
struct FrequencyFinding {
  FrequencyOptions options;
  CustomerGroups groups;
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
[[nodiscard]] Table distribution_table(const FrequencyFinding& finding);
/// Who came back, and the days between orders, of each group and of all.
[[nodiscard]] Table summary_table(const FrequencyFinding& finding);
/// The customers of each row of the distribution.
[[nodiscard]] Table list_table(const FrequencyFinding& finding, const Daybook& daybook);

[[nodiscard]] std::vector<std::string> frequency_headline(const FrequencyFinding& finding);
/// Takes the finding, whose distribution it fills up.
[[nodiscard]] Figure frequency_figure(FrequencyFinding finding, const std::vector<std::string>& headline);

}  // namespace pear
