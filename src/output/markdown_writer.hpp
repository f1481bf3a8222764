// A result as Markdown (CommonMark, with pipe tables).
#pragma once

#include <cstddef>
#include <string>
#include <vector>

#include "result/result.hpp"

namespace pear {

/// Title, headline, population and selection, tables of up to `top` rows each, notes, checks. All text from
/// data is escaped.
[[nodiscard]] std::string render_markdown(const Result& result, const std::string& title,
                                          const std::string& selection, const std::string& stem,
                                          std::size_t top);

}  // namespace pear
