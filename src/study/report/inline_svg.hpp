// Drawings within an HTML page.
#pragma once

#include <string>

#include "base/error.hpp"
#include "result/figure.hpp"

namespace pear::study {

/// A drawing of gnuplot as part of an HTML page, with an alternative text; ids within begin with `prefix`, so
/// that one page can contain several. Errors: io.
[[nodiscard]] OrError<std::string> inline_svg(const std::string& path, const result::Figure& figure,
                                              const std::string& prefix);

}  // namespace pear::study
