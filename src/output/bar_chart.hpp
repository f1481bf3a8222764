// Bars as gnuplot draws them.
#pragma once

#include <string>
#include <vector>

#include "output/figure_writer.hpp"
#include "result/result.hpp"

namespace pear {

/// A bar chart of 1280x800 pixels: gnuplot's script, and the data files that it reads. Text of the data
/// stands in the data files alone.
class BarChart {
 public:
  explicit BarChart(const Figure& figure);

  /// title.tsv, side.tsv and below.tsv: x and y in pixels from the bottom left, and a text, one a line.
  [[nodiscard]] std::string title_data() const;  ///< the title's lines
  [[nodiscard]] std::string side_data() const;   ///< subtitle, and what the heights are
  [[nodiscard]] std::string below_data() const;  ///< what the labels are
  /// bars.tsv: position, height, colour, label under the bar, value over it, one bar a line.
  [[nodiscard]] std::string bar_data() const;
  /// Draws into the file `drawing` of gnuplot's working folder.
  [[nodiscard]] std::string script(FigureFormat format, const std::string& drawing) const;

 private:
  [[nodiscard]] std::size_t bars() const { return figure_.marks.rows(); }
  [[nodiscard]] int plot_top() const;
  [[nodiscard]] double height(std::size_t bar) const;
  [[nodiscard]] std::vector<bool> shown_labels() const;
  [[nodiscard]] std::size_t month_number(std::size_t bar) const;
  [[nodiscard]] std::string ticks() const;
  [[nodiscard]] std::string plot(int text_size) const;

  const Figure& figure_;
  const TableColumn& labels_;
  const TableColumn& values_;
  bool is_share_;
  std::vector<std::string> title_;
};

/// Ticks at round steps (1, 2 or 5 times a power of ten) from 0 to the first at or above `largest`.
[[nodiscard]] std::vector<double> round_ticks(double largest);

}  // namespace pear
