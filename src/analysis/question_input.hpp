// The input of a question.
#pragma once

#include <cstdint>
#include <map>
#include <optional>
#include <string>
#include <vector>

#include "analysis/progress.hpp"
#include "analysis/side_table.hpp"
#include "base/date.hpp"
#include "daybook/daybook.hpp"
#include "expression/rows/row_view.hpp"
#include "result/result.hpp"

namespace pear::analysis {

/// The selected lines as a daybook of their own, and what a question needs to know of the whole.
struct QuestionInput {
  daybook::Daybook daybook;
  result::Population population;
  std::optional<result::Population> whole;  ///< of the daybook before selecting, if something was left out
  Date data_end;         ///< last day covered by the selection: that of the whole daybook, or --to
  std::string currency;  ///< empty if unknown
  std::map<std::string, expression::Grain> grains;  ///< see LineView
  std::vector<std::string> notes;                   ///< on the selection
  Progress progress;                                ///< empty if nobody listens
  /// 1 for customers with a line that meets --customers, and who are silent since --quiet-since where the
  /// question learns from all; empty without these options.
  std::vector<std::uint8_t> chosen_customers;
  std::map<std::string, SideTable> side_tables;  ///< by the option that names the file
};

/// The input for a whole daybook. Needs order_date and is_return.
[[nodiscard]] QuestionInput input_of(daybook::Daybook daybook);

}  // namespace pear::analysis
