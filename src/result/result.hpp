// What a question returns: the thin waist between questions and writers.
#pragma once

#include <cstdint>
#include <optional>
#include <string>
#include <utility>
#include <vector>

#include "base/date.hpp"
#include "result/table.hpp"

namespace pear {

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

/// Bars of one value each, from the columns of `marks`. Writers draw it; nothing of them shows here.
struct Figure {
  /// How the bars' labels stand on their axis.
  enum class Axis : std::uint8_t { categories, months };

  std::string part;       ///< behind the stem in the file's name; empty for the first figure
  std::string title;      ///< the finding, as a sentence with its figure
  std::string subtitle;   ///< what is shown, and of whom
  Table marks;            ///< one row a bar
  std::size_t label = 0;  ///< the column of `marks` with the labels (text)
  std::size_t value = 1;  ///< the column with the heights (count or share)
  Axis axis = Axis::categories;
  std::string label_title;           ///< what the labels are
  std::string value_title;           ///< what the heights are
  std::vector<std::size_t> noticed;  ///< rows to draw in the colour of what is to be noticed
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

}  // namespace pear
