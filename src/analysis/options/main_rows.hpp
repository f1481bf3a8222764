// Which rows of the main table are written, and in what order: options that all questions share.
#pragma once

#include <cstdint>
#include <optional>
#include <vector>

#include "analysis/options/option.hpp"
#include "base/error.hpp"
#include "expression/syntax/tree.hpp"
#include "result/result.hpp"

namespace pear::analysis {

struct MainRows {
  std::optional<expression::Tree> having;  ///< a condition on the columns of the table
  std::vector<expression::SortKey> sort;   ///< columns of the table
  std::optional<std::int64_t> limit;
  std::int64_t offset = 0;
};

/// Declares --having, --sort, --limit and --offset.
[[nodiscard]] const OptionDeclarations<MainRows>& main_rows_options();

/// Keeps the rows of the main table that meet the condition, sorts them, and cuts the page, with a note on
/// what is left out. A total at the end stays; rows that are not findings come last. Shares and probabilities
/// are compared exactly with numbers of up to four decimals. Errors: usage, for a name that is no column.
/// O(rows log rows).
[[nodiscard]] OrError<void> choose_main_rows(const MainRows& rows, result::Result& result);

}  // namespace pear::analysis
