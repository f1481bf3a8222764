// Figures laid out as drawings, one function for each kind.
#pragma once

#include <vector>

#include "output/charts/drawing.hpp"
#include "result/result.hpp"

namespace pear::output {

/// The whole figure with its title.
[[nodiscard]] Drawing draw(const result::Figure& figure);

/// What is left for the plot, in pixels.
struct PlotArea {
  double left = 0, right = 0, bottom = 0, top = 0;
  [[nodiscard]] double width() const { return right - left; }
  [[nodiscard]] double height() const { return top - bottom; }
};

// Each draws its kind into the area below title and subtitle.
void draw_bars(const result::Figure& figure, PlotArea area, Drawing& drawing);
void draw_ranked(const result::Figure& figure, PlotArea area, Drawing& drawing);
void draw_lines(const result::Figure& figure, PlotArea area, Drawing& drawing);
void draw_heat_map(const result::Figure& figure, PlotArea area, Drawing& drawing);
void draw_intervals(const result::Figure& figure, PlotArea area, Drawing& drawing);
void draw_panels(const result::Figure& figure, PlotArea area, Drawing& drawing);
void draw_curves(const result::Figure& figure, PlotArea area, Drawing& drawing);
void draw_arrows(const result::Figure& figure, PlotArea area, Drawing& drawing);
void draw_flow(const result::Figure& figure, PlotArea area, Drawing& drawing);
void draw_network(const result::Figure& figure, PlotArea area, Drawing& drawing);
void draw_scatter(const result::Figure& figure, PlotArea area, Drawing& drawing);
void draw_timeline(const result::Figure& figure, PlotArea area, Drawing& drawing);

/// The value of a mark as it is drawn: per cent for shares, NaN where there is none.
[[nodiscard]] double mark_value(const result::TableColumn& column, std::size_t row);

/// The smallest and the largest value of all series, 0 among them.
[[nodiscard]] std::pair<double, double> value_range(const result::Figure& figure);

/// Ticks at round steps (1, 2 or 5 times a power of ten) from at or below `smallest`, which is 0 or less, to
/// at or above `largest`. Steps below 1 only where `fractions` make sense.
[[nodiscard]] std::vector<double> round_ticks(double largest, double smallest = 0, bool fractions = false);

/// "20%", "1,500", "0.25"
[[nodiscard]] std::string tick_label(double tick, result::Unit unit);

/// The colours of several series: shades where they have an order.
[[nodiscard]] std::vector<int> series_colours(const result::Figure& figure);

/// Squares with the names of the series, at the top of the area, which becomes lower.
void draw_legend(const result::Figure& figure, PlotArea& area, Drawing& drawing);

/// The height of a row of lying marks, and what fits into it.
struct RowLayout {
  double per_row = 0;
  double thickness = 0;
  Lettering lettering = Lettering::text;
};
[[nodiscard]] RowLayout layout_rows(const PlotArea& area, std::size_t rows);

/// How many characters of the labels of rows fit.
[[nodiscard]] std::size_t label_width(const result::TableColumn& labels);

/// Places for panels side by side and under one another, with room for ticks around each.
[[nodiscard]] std::vector<PlotArea> panel_areas(const PlotArea& area, std::size_t panels);

[[nodiscard]] bool is_noticed(const result::Figure& figure, std::size_t mark);

/// Which labels along an axis of times or categories have room, where each has `per_mark` pixels.
[[nodiscard]] std::vector<bool> labels_with_room(const result::Figure& figure, double per_mark);

}  // namespace pear::output
