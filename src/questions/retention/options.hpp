// The options of retention.
#pragma once

#include <cstdint>
#include <vector>

#include "analysis/options/option.hpp"
#include "base/error.hpp"
#include "expression/syntax/tree.hpp"
#include "questions/retention/periods.hpp"

namespace pear::retention {

/// What customers are grouped by: when they began, or a column.
enum class CohortKind : std::uint8_t { month, quarter, year, column };

struct Options {
  CohortKind cohort = CohortKind::month;
  std::vector<expression::Tree> columns;  ///< of customers, for CohortKind::column
  Period period;
};

[[nodiscard]] analysis::OptionDeclarations<Options> option_declarations();

/// Errors: usage, for values that do not fit an option, or one another.
[[nodiscard]] OrError<Options> read_options(const analysis::OptionValues& values);

}  // namespace pear::retention
