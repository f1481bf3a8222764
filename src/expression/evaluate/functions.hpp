// SQL's scalar functions, for one row at a time.
#pragma once

#include <cstddef>
#include <string>
#include <string_view>
#include <vector>

#include "expression/rows/values.hpp"
#include "expression/syntax/node.hpp"

namespace pear::expression {

/// Writes the function's value into row `row` of `result`; all arguments are filled there. New texts go into
/// the arena. Returns false for a fault.
[[nodiscard]] bool apply_function(Op op, const std::vector<Values>& args, std::size_t row, Values& result,
                                  TextArena& arena);

/// SQL's LIKE: % matches any text, _ one character (UTF-8).
[[nodiscard]] bool is_like(std::string_view text, std::string_view pattern);

/// Case mapping and folding by Unicode's rules, independent of any language. Text that is not UTF-8 keeps its
/// bytes.
[[nodiscard]] std::string to_lower(std::string_view text);
[[nodiscard]] std::string to_upper(std::string_view text);

/// The text without white space at both ends (space, tab, line breaks, no-break space).
[[nodiscard]] std::string_view trimmed(std::string_view text);

}  // namespace pear::expression
