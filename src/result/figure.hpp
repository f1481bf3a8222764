// Figures: small descriptions, one type for each kind, which writers draw (output/charts).
#pragma once

#include <cstdint>
#include <optional>
#include <string>
#include <utility>
#include <variant>
#include <vector>

#include "result/table.hpp"

namespace pear::result {

/// How labels are placed on an axis: all that fit, those of round months ("2024-09"), or days in steps of a
/// month.
enum class LabelAxis : std::uint8_t { categories, months, days };

// Each kind refers to the columns of the figure's marks by name; a mark is a row. A series is a column of
// values, labelled with its title.

/// Vertical bars, one for each mark.
struct BarChart {
  std::string label, value;
  LabelAxis axis = LabelAxis::categories;
  std::string label_title, value_title;
  std::optional<std::size_t> other;  ///< the mark that gathers the rest
  std::vector<std::size_t> noticed;  ///< marks in the highlight colour
  bool in_order = false;             ///< bands, shaded from light to dark
};

/// Horizontal bars, one for each mark, the largest first.
struct RankedBarChart {
  std::string label, value;
  std::string basis;  ///< a count shown after the value, "10.8 (7)"; none where empty
  std::string shade;  ///< a column by which bars are light or dark; none where empty
  std::string value_title;
  std::optional<std::size_t> other;
  std::vector<std::size_t> noticed;
  bool in_order = false;
};

/// Horizontal bars of several series, stacked.
struct StackedBarChart {
  std::string label;
  std::vector<std::string> series;
  std::string total;  ///< the column with the sum of the series; none if empty
  std::string value_title;
  bool series_in_order = false;  ///< times or bands, shaded from light to dark
};

/// Horizontal bars of several series, one below another.
struct GroupedBarChart {
  std::string label;
  std::vector<std::string> series;
  std::string value_title;
  bool series_in_order = false;
};

/// A line for each series.
struct LineChart {
  std::string label;
  std::vector<std::string> series;
  LabelAxis axis = LabelAxis::months;
  std::string label_title, value_title;
  bool series_in_order = false;
};

/// A row for each mark, a column for each series.
struct HeatMap {
  std::string label;
  std::vector<std::string> series;
  std::string value_title;
};

/// A point for each mark, with its interval.
struct IntervalChart {
  std::string label, value, low, high;
  std::string basis, basis_title;   ///< a count next to each value, and what it counts; none if empty
  std::optional<double> reference;  ///< a share to compare all marks with
  std::string reference_label;
  std::string value_title;
  std::vector<std::size_t> noticed;
};

/// A panel of bars for each series.
struct SmallMultiples {
  std::string label;
  std::vector<std::string> series;
  LabelAxis axis = LabelAxis::categories;
  std::string value_title;
};

/// Shares over shares, both up to 100%: a curve for each series.
struct CurveChart {
  struct Point {
    double x = 0, y = 0;
    std::string label;
  };
  std::string share;  ///< the column of the horizontal axis
  std::vector<std::string> series;
  std::vector<Point> points;  ///< points of a curve, with their labels
  bool in_panels = false;     ///< each curve in a panel of its own
  bool series_in_order = false;
  std::string label_title, value_title;
};

/// Lines between members that belong together, as thick as their values.
struct NetworkChart {
  std::string from, to, value;
};

/// Arrows from left to right between members that follow one another, as thick as their values.
struct ArrowChart {
  std::string from, to, value;
  std::string caption;  ///< the column with the text of each arrow
  std::vector<std::size_t> noticed;
};

/// From each step to the next, as high as the values.
struct FlowChart {
  std::string from, to, value;
  std::string step;  ///< the column with the step, from 1, at which the value arrives
};

/// A point for each mark.
struct ScatterChart {
  std::string label, along, value;  ///< `along` is above 0
  std::vector<std::pair<double, double>>
      steps;                        ///< a level, as a share, from each position on the horizontal axis
  std::optional<double> reference;  ///< a value to compare all marks with
  std::string reference_label;
  std::string label_title, value_title;
  std::vector<std::size_t> noticed;
};

/// Vertical stems at their dates, the series stacked.
struct Timeline {
  std::string date;
  std::vector<std::string> series;
  std::string value_title;
};

using Chart = std::variant<BarChart, RankedBarChart, StackedBarChart, GroupedBarChart, LineChart, HeatMap,
                           IntervalChart, SmallMultiples, CurveChart, NetworkChart, ArrowChart, FlowChart,
                           ScatterChart, Timeline>;

/// What a writer draws. The marks are a small table of their own, because they are often aggregated ("12 or
/// more") and not rows of a written table.
struct Figure {
  std::string part;      ///< the part of the file's name after the stem; empty for the first figure
  std::string title;     ///< the finding, as a sentence with its figure
  std::string subtitle;  ///< what is shown, and for whom
  Table marks;
  Chart chart;
};

}  // namespace pear::result
