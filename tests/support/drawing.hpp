// Figures in files.
#pragma once

#include <string>
#include <vector>

#include "output/charts/figure_writer.hpp"
#include "support/temporary_folder.hpp"

namespace pear::test {

/// Draws a figure into files of the folder; returns the error, or an empty text.
inline std::string write_figure(const result::Figure& figure, const TemporaryFolder& folder,
                                const std::string& stem, const std::vector<output::FigureFormat>& formats) {
  auto drawn = output::draw_figure(figure, folder.path(), stem, formats);
  if (!drawn) return drawn.error().message;
  const OrError<void> committed = files::commit_together(*drawn);
  return committed ? "" : committed.error().message;
}

}  // namespace pear::test
