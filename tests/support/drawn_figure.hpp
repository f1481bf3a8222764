// What a drawing contains, read from gnuplot's data files; and random marks to draw.
#pragma once

#include <cmath>
#include <exception>
#include <optional>
#include <regex>
#include <sstream>
#include <string>
#include <utility>
#include <vector>

#include <absl/strings/str_replace.h>
#include <fmt/format.h>

#include "output/charts/chart.hpp"
#include "output/charts/plot.hpp"
#include "output/tables/readable.hpp"
#include "support/random_shop.hpp"

namespace pear::test {

struct Box {
  double left = 0, bottom = 0, right = 0, top = 0;
  std::string text;        ///< of a rectangle: its colour
  std::string align = "";  ///< of a text

  [[nodiscard]] bool overlaps(const Box& other) const {
    return left < other.right && other.left < right && bottom < other.top && other.bottom < top;
  }
  [[nodiscard]] std::string shown() const {
    return fmt::format("\"{}\" at {:.0f} to {:.0f}, {:.0f} to {:.0f}", text, left, right, bottom, top);
  }
};

inline std::vector<std::vector<std::string>> tsv_rows(const std::string& tsv) {
  std::vector<std::vector<std::string>> rows;
  std::istringstream lines(tsv);
  for (std::string line; std::getline(lines, line);) {
    std::istringstream fields(line);
    rows.emplace_back();
    for (std::string field; std::getline(fields, field, '\t');) rows.back().push_back(field);
  }
  return rows;
}

/// All texts of a drawing, a little smaller than they are: letters differ in width.
inline std::vector<Box> texts_of(const output::Drawing& drawing) {
  constexpr double kPart = 0.75, kLetter = output::Drawing::kCharacter / 20;  // at 20 pixels
  const auto files = drawing.files();
  const std::string script = drawing.script(output::FigureFormat::svg, "f.svg");
  static const std::regex style(
      "'(texts\\d+\\.tsv)' using 1:2:3 notitle with labels (\\w+) font 'Lato[^,]*,(\\d+)'");
  std::vector<Box> boxes;
  for (std::sregex_iterator each(script.begin(), script.end(), style), end; each != end; ++each) {
    const std::string align = (*each)[2];
    const double size = std::stod((*each)[3]);
    for (const auto& row : tsv_rows(files.at((*each)[1]))) {
      const double x = std::stod(row[0]), y = std::stod(row[1]);
      const double width = kLetter * size * static_cast<double>(output::display_width(row[2]));
      const double left = align == "left" ? x : align == "center" ? x - width / 2 : x - width;
      const double middle = left + width / 2;
      boxes.push_back({middle - kPart * width / 2, y - kPart * size / 2, middle + kPart * width / 2,
                       y + kPart * size / 2, row[2], align});
    }
  }
  return boxes;
}

inline std::vector<Box> rectangles_of(const output::Drawing& drawing) {
  const auto files = drawing.files();
  std::vector<Box> boxes;
  if (!files.contains("rectangles.tsv")) return boxes;
  for (const auto& row : tsv_rows(files.at("rectangles.tsv")))
    boxes.push_back({std::stod(row[2]), std::stod(row[4]), std::stod(row[3]), std::stod(row[5]), row[6]});
  return boxes;
}

inline bool is_on_canvas(const Box& box) {
  return box.left >= -1 && box.right <= output::Drawing::kWidth + 1 && box.bottom >= -1 &&
         box.top <= output::Drawing::kHeight + 1;
}

/// All points of lines and areas, and both ends of arrows.
inline std::vector<std::pair<double, double>> points_of(const output::Drawing& drawing) {
  std::vector<std::pair<double, double>> points;
  for (const auto& [name, tsv] : drawing.files()) {
    const bool is_arrow = name.starts_with("arrows");
    if (!is_arrow && !name.starts_with("lines") && !name.starts_with("areas")) continue;
    for (const auto& row : tsv_rows(tsv)) {
      if (row.empty()) continue;  // between two lines
      points.emplace_back(std::stod(row[0]), std::stod(row[1]));
      if (is_arrow)
        points.emplace_back(points.back().first + std::stod(row[2]),
                            points.back().second + std::stod(row[3]));
    }
  }
  return points;
}

inline std::string word(int longest) {
  std::string text;
  for (int i = pick(1, longest); i > 0; --i)
    text += static_cast<char>(pick(0, 5) == 0 ? ' ' : 'a' + pick(0, 25));
  return text;
}

inline result::TableColumn random_values(const std::string& name, std::size_t rows) {
  const int magnitude = pick(0, 8);
  std::vector<std::int64_t> values(rows);
  for (std::int64_t& value : values)
    value =
        pick(0, 9) == 0
            ? result::kEmptyCell
            : static_cast<std::int64_t>((pick(0, 5) == 0 ? -1 : 1) * pick(0, 999) * std::pow(10, magnitude));
  return result::integer_column(name, result::Unit::money, "", values);
}

/// How far from its place a mark may be, in pixels.
inline constexpr double kPixel = 1.01;

/// The number of a label: "1,500", "20%", "-0.5".
inline std::optional<double> number_of(const std::string& label) {
  const std::string plain = absl::StrReplaceAll(label, {{",", ""}, {"%", ""}});
  std::size_t end = 0;
  try {
    const double number = std::stod(plain, &end);
    return end == plain.size() ? std::optional(number) : std::nullopt;
  } catch (const std::exception&) {
    return std::nullopt;
  }
}

/// Labels that are no numbers, then series of values.
inline result::Figure figure_of_values(std::size_t rows, std::size_t series, bool is_positive) {
  result::Figure figure;
  TextArray labels;
  for (std::size_t row = 0; row < rows; ++row)
    labels.push_back(fmt::format("row {}", static_cast<char>('a' + row)));
  figure.marks.columns = {result::text_column("label", "", labels)};
  for (std::size_t i = 0; i < series; ++i) {
    std::vector<std::int64_t> values(rows);
    for (std::int64_t& value : values)
      value = pick(0, 9) == 0
                  ? result::kEmptyCell
                  : (is_positive || pick(0, 3) > 0 ? 1 : -1) * std::int64_t{pick(1, 9'999)} * 10'000;
    figure.marks.columns.push_back(result::integer_column(
        fmt::format("series {}", static_cast<char>('a' + i)), result::Unit::money, "", values));
  }
  return figure;
}

inline std::vector<std::string> names_of_series(const result::Figure& figure) {
  std::vector<std::string> names;
  for (std::size_t i = 1; i < figure.marks.columns.size(); ++i) names.push_back(figure.marks.columns[i].name);
  return names;
}

inline double value_at(const result::Figure& figure, std::size_t series, std::size_t row) {
  return output::mark_value(figure.marks.columns[series + 1], row);
}

}  // namespace pear::test
