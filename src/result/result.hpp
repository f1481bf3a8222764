// What a question returns: the thin waist between questions and writers.
#pragma once

#include <cstdint>
#include <optional>
#include <string>
#include <utility>
#include <vector>

#include "base/date.hpp"
#include "result/table.hpp"

namespace pear::result {

/// Who and what a selection holds.
struct Population {
  std::uint64_t customers = 0;  ///< with at least one line
  std::uint64_t orders = 0;     ///< with at least one line that is not a return
  std::uint64_t lines = 0;      ///< returns included
  std::uint64_t returns = 0;    ///< lines that are returns
  std::optional<Date> first_date, last_date;
  std::optional<Decimal> amount;  ///< net of returns; none where amounts were not read, or leave the range
};

/// A statement that was tested on this very result.
struct Check {
  std::string statement;
  bool holds = false;
};

/// Marks from the columns of a table. Writers draw it; nothing of them shows here.
struct Figure {
  enum class Kind : std::uint8_t {
    bars,             ///< standing, one value each
    ranked_bars,      ///< lying, one value each
    stacked_bars,     ///< lying, the series behind one another
    grouped_bars,     ///< lying, the series under one another
    lines,            ///< one for each series
    heat_map,         ///< a row for each mark, a column for each series
    intervals,        ///< a point for each mark, with the range in which its value may lie
    small_multiples,  ///< a panel of bars for each series
    curves,           ///< shares over shares, both to 100%
    network,   ///< lines between the labels and the texts of the column `along`, as broad as the values
    arrows,    ///< the same, from left to right, for what follows one another
    flow,      ///< from step to step, from the labels to the texts of `along`, as high as the values
    scatter,   ///< a point for each mark, over the column `along`
    timeline,  ///< standing stems at the dates of the label column, the series on one another
  };
  /// How the bars' labels stand on their axis.
  enum class Axis : std::uint8_t { categories, months, days };

  Kind kind = Kind::bars;
  std::string part;                       ///< behind the stem in the file's name; empty for the first figure
  std::string title;                      ///< the finding, as a sentence with its figure
  std::string subtitle;                   ///< what is shown, and of whom
  Table marks;                            ///< one row a mark
  std::size_t label = 0;                  ///< the column of `marks` with the labels (text)
  std::vector<std::size_t> values = {1};  ///< the columns with the heights, one for each series
  std::optional<std::size_t> totals;      ///< the column with what stacked series come to, or a mark rests on
  std::optional<std::pair<std::size_t, std::size_t>> interval;  ///< the columns with the ends of ranges
  std::optional<double> reference;  ///< a value, in the unit of the marks, to compare all marks with
  std::string reference_label;
  struct Point {
    double x = 0, y = 0;
    std::string label;
  };
  std::vector<Point> points;  ///< of a curve, to be told
  std::optional<std::size_t>
      along;  ///< of a scatter: the column of the places along, above 0; see also above
  std::vector<std::pair<double, double>> steps;  ///< of a scatter: a level, as a share, from each place on
  std::optional<std::size_t> shaded;    ///< of ranked bars: the column by which they are light or dark
  std::optional<std::size_t> captions;  ///< of arrows: the column with what stands on each
  std::optional<std::size_t> step;  ///< of a flow: the column with the step, from 1, that the value leads to
  bool in_panels = false;           ///< each curve in a panel of its own
  bool series_in_order = false;     ///< times or bands, which are shaded from light to dark
  bool marks_in_order = false;      ///< bands, whose bars are shaded from light to dark
  Axis axis = Axis::categories;
  std::string label_title;              ///< what the labels are
  std::string value_title;              ///< what the values are
  std::optional<std::size_t> gathered;  ///< the row of what is gathered as other
  std::vector<std::size_t> noticed;     ///< rows to draw in the colour of what is to be noticed
};

/// Names and values that say how a result was come by ("window", "90 days").
using Definitions = std::vector<std::pair<std::string, std::string>>;

struct Result {
  std::string question;
  std::vector<std::string> headline;  ///< one to three sentences
  Population population;
  std::optional<Population> whole;  ///< of the daybook, where the population is a selection of it
  std::string currency;             ///< of all money; empty where it is not known
  Definitions definitions;
  std::vector<Table> tables;  ///< the main table first
  std::vector<Figure> figures;
  std::vector<Check> checks;
  std::vector<std::string> notes;  ///< what was left out, and why
};

}  // namespace pear::result
