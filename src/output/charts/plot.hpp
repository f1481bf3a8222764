// The common parts of charts: the plot area, values and ticks, colours and legends.
#pragma once

#include <optional>
#include <string>
#include <utility>
#include <vector>

#include "output/charts/drawing.hpp"
#include "result/figure.hpp"

namespace pear::output {

/// The area of the plot, in pixels.
struct PlotArea {
  double left = 0, right = 0, bottom = 0, top = 0;
  [[nodiscard]] double width() const { return right - left; }
  [[nodiscard]] double height() const { return top - bottom; }
};

/// The columns of series, in their order.
using Series = std::vector<const result::TableColumn*>;
[[nodiscard]] Series series_of(const result::Table& marks, const std::vector<std::string>& names);

/// The value of a mark as it is drawn: per cent for shares, NaN if there is none.
[[nodiscard]] double mark_value(const result::TableColumn& column, std::size_t row);

/// The smallest and the largest value of all series, including 0; of their sums if they are stacked.
[[nodiscard]] std::pair<double, double> value_range(const Series& series, bool stacked = false);

/// Ticks at round steps (1, 2 or 5 times a power of ten) from at or below `smallest`, which is 0 or less, to
/// at or above `largest`. Steps below 1 only if `fractions` make sense.
[[nodiscard]] std::vector<double> round_ticks(double largest, double smallest = 0, bool fractions = false);

/// Whether ticks below 1 make sense.
[[nodiscard]] bool has_fractions(result::Unit unit);

/// "20%", "1,500", "0.25"
[[nodiscard]] std::string tick_label(double tick, result::Unit unit);
/// The width of the widest label, in characters.
[[nodiscard]] std::size_t widest_label(const std::vector<double>& ticks, result::Unit unit);

/// The colours of several series: shades if they have an order.
[[nodiscard]] std::vector<int> series_colours(std::size_t series, bool in_order);
/// The colour of one bar among several: shades if they have an order.
[[nodiscard]] int shade_in_order(std::size_t bar, std::size_t bars);

/// Squares with the titles of the series, at the top of the area, which becomes lower.
void draw_legend(const Series& series, const std::vector<int>& colours, PlotArea& area, Drawing& drawing);

/// The height of a row of horizontal marks, and what fits into it.
struct RowLayout {
  double per_row = 0;
  double thickness = 0;
  Lettering lettering = Lettering::text;
  std::size_t rows_per_label = 1;

  [[nodiscard]] bool has_label(std::size_t row) const { return row % rows_per_label == 0; }
};
/// How many rows of this height need the room of one label.
[[nodiscard]] std::size_t rows_per_label(double per_row);
[[nodiscard]] RowLayout layout_rows(const PlotArea& area, std::size_t rows);

/// How many characters of the labels of rows fit.
[[nodiscard]] std::size_t label_width(const result::TableColumn& labels);

/// Positions of panels in rows and columns, with room for ticks around each.
[[nodiscard]] std::vector<PlotArea> panel_areas(const PlotArea& area, std::size_t panels);

[[nodiscard]] bool is_noticed(const std::vector<std::size_t>& noticed, std::size_t mark);

/// A label below its place on an axis, cut to the room between that and the nearer edge of the figure.
[[nodiscard]] std::string axis_label(std::string_view text, double x);

/// Which labels fit along an axis of times or categories with `per_mark` pixels each. `other` is the mark
/// that combines the rest: its label must be shown.
[[nodiscard]] std::vector<bool> labels_with_room(const result::TableColumn& labels, result::LabelAxis axis,
                                                 double per_mark, std::optional<std::size_t> other = {});

}  // namespace pear::output
