// Draws figures with gnuplot.
#pragma once

#include <string>
#include <vector>

#include "base/error.hpp"
#include "files/atomic_file.hpp"
#include "result/result.hpp"

namespace pear::output {

enum class FigureFormat { svg, png };

/// Draws the figure, 1280x800, once for each format, as FOLDER/STEM.svg and FOLDER/STEM.png, which are yet to
/// be committed. Text of the data reaches gnuplot only through data files and is never markup. Errors: io,
/// with what to install if there is no gnuplot, or gnuplot's message; then no file remains.
[[nodiscard]] OrError<std::vector<files::AtomicFile>> draw_figure(const result::Figure& figure,
                                                                  const std::string& folder,
                                                                  const std::string& stem,
                                                                  const std::vector<FigureFormat>& formats);

/// The extension of a format, without dot.
[[nodiscard]] std::string extension(FigureFormat format);

}  // namespace pear::output
