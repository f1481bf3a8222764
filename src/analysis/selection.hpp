// The lines that a question uses: the options that all questions share.
#pragma once

#include <cstdint>
#include <optional>
#include <string>
#include <string_view>
#include <utility>
#include <vector>

#include "analysis/option.hpp"
#include "base/date.hpp"
#include "base/error.hpp"
#include "expression/rows/line_view.hpp"
#include "expression/syntax/tree.hpp"

namespace pear::analysis {

/// Whether amounts are net of returns, or returns are left out of everything.
enum class Returns : std::uint8_t { net, ignore };

/// "2024-04-01". Error: usage, naming the option.
[[nodiscard]] OrError<Date> parse_day(std::string_view option, std::string_view text);

/// An option that is a day.
template <class Options>
OptionDeclaration<Options> day_option(OptionInfo info, std::optional<Date> Options::*member) {
  auto set = [name = info.name, member](Options& options, std::string_view text) -> OrError<void> {
    PEAR_ASSIGN(options.*member, parse_day(name, text));
    return {};
  };
  return {std::move(info), std::move(set)};
}

struct Selection {
  std::optional<expression::Tree> where;  ///< a condition on lines
  std::optional<Date> from, to;           ///< both days included
  Returns returns = Returns::net;

  [[nodiscard]] bool is_all() const { return !where && !from && !to && returns == Returns::net; }
};

[[nodiscard]] const OptionDeclarations<Selection>& selection_options();

/// Reads the options and checks that they fit together. Error: usage.
[[nodiscard]] OrError<Selection> read_selection(const OptionValues& values);

/// "region = 'North', from 2024-04-01 to 2024-12-31, without returns"; "all lines".
[[nodiscard]] std::string describe(const Selection& selection);

/// 1 for each selected line, 0 for the others. A condition on customers, orders or products is computed only
/// once for each of them. O(lines) on all threads. Needs order_date and is_return. Errors: usage and data,
/// see Expression.
[[nodiscard]] OrError<std::vector<std::uint8_t>> selected_lines(const Selection& selection,
                                                                const expression::LineView& lines);

/// Texts that the condition compares with a column but that the column does not contain, each as a sentence
/// with a suggestion: usually a typing mistake.
[[nodiscard]] std::vector<std::string> unknown_values(const Selection& selection,
                                                      const expression::LineView& lines);

}  // namespace pear::analysis
