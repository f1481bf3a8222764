// Draws figures with gnuplot.
#pragma once

#include <string>
#include <vector>

#include "base/error.hpp"
#include "result/result.hpp"

namespace pear::output {

enum class FigureFormat { svg, png };

/// Draws the figure, 1280x800, once for each format, into FOLDER/STEM.svg and FOLDER/STEM.png. Text of the
/// data reaches gnuplot only through data files and is never markup. Errors: io, with what to install if
/// there is no gnuplot, or gnuplot's message; then no file remains.
[[nodiscard]] OrError<std::vector<std::string>> write_figure(const result::Figure& figure,
                                                             const std::string& folder,
                                                             const std::string& stem,
                                                             const std::vector<FigureFormat>& formats);

/// The extension of a format, without dot.
[[nodiscard]] std::string extension(FigureFormat format);

}  // namespace pear::output
