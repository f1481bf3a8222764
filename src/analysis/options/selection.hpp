// The lines that a question uses: the options that all questions share.
#pragma once

#include <cstdint>
#include <optional>
#include <string>
#include <string_view>
#include <utility>
#include <vector>

#include "analysis/options/day_span.hpp"
#include "analysis/options/option.hpp"
#include "base/date.hpp"
#include "base/error.hpp"
#include "expression/rows/line_view.hpp"
#include "expression/syntax/tree.hpp"

namespace pear::analysis {

/// Whether amounts are net of returns, or returns are left out of everything.
enum class Returns : std::uint8_t { net, ignore };

struct Selection {
  std::optional<expression::Tree> where;  ///< a condition on lines
  std::optional<GivenDays> from, to;      ///< from the first day of one to the last day of the other
  Returns returns = Returns::net;
  std::optional<GivenDays> quiet_since;  ///< customers without an order since the first of these days

  [[nodiscard]] bool is_all() const {
    return !where && !from && !to && !quiet_since && returns == Returns::net;
  }
};

[[nodiscard]] const OptionDeclarations<Selection>& selection_options();

/// Reads the options. Error: usage.
[[nodiscard]] OrError<Selection> read_selection(const OptionValues& values);

/// The days of --from and --to in data that end on this day; without an option, a day before or after all
/// others. Error: usage, if no day is between them.
[[nodiscard]] OrError<DaySpan> days_of(const Selection& selection, Date data_end);

/// "region = 'North', from 2024-04-01 to 2024-12-31, without returns"; "all lines".
[[nodiscard]] std::string describe(const Selection& selection, Date data_end);

/// 1 for each selected line, 0 for the others. A condition on customers, orders or products is computed only
/// once for each of them. O(lines) on all threads. Needs order_date, is_return, and last_order_date for
/// --quiet-since. Errors: usage and data,
/// see Expression.
[[nodiscard]] OrError<std::vector<std::uint8_t>> selected_lines(const Selection& selection,
                                                                const expression::LineView& lines,
                                                                Date data_end);

/// Texts that the condition compares with a column but that the column does not contain, each as a sentence
/// with a suggestion: usually a typing mistake.
[[nodiscard]] std::vector<std::string> unknown_values(const Selection& selection,
                                                      const expression::LineView& lines);

}  // namespace pear::analysis
