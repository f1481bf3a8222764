// Drawings within an HTML page.
#pragma once

#include <string>

#include "base/error.hpp"
#include "result/figure.hpp"

namespace pear::study {

/// A drawing of gnuplot as part of an HTML page, with a text in its place for those who do not see it; ids
/// within begin with `prefix`, so that several stand in one page. Errors: io.
[[nodiscard]] OrError<std::string> inline_svg(const std::string& path, const result::Figure& figure,
                                              const std::string& prefix);

}  // namespace pear::study
