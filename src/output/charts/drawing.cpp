#include "output/charts/drawing.hpp"

#include <algorithm>
#include <cmath>

#include <fmt/format.h>

#include "output/tables/readable.hpp"

namespace pear::output {
namespace {

/// A text as a field of a gnuplot data file: without tabs or line ends, and without double quotes, which
/// gnuplot would interpret.
std::string field(std::string_view text) {
  std::string result;
  for (const char c : without_controls(text, "\t\n\r")) {
    if (c == '"')
      result += "”";
    else
      result += c == '\t' || c == '\n' || c == '\r' ? ' ' : c;
  }
  return result.empty() ? " " : result;
}

/// gnuplot takes sizes as points of 1/72 inch for PNG, at 96 pixels an inch, and as pixels for SVG.
int font_size(int points, FigureFormat format) {
  return format == FigureFormat::svg ? points * 96 / 72 : points;
}

int points_of(Lettering lettering) {
  constexpr int kTitle = 24, kText = 15, kSmall = 12;
  return lettering == Lettering::title ? kTitle : lettering == Lettering::text ? kText : kSmall;
}

std::string_view word_of(Align align) {
  return align == Align::left ? "left" : align == Align::center ? "center" : "right";
}

}  // namespace

int colour::shade(double strength) {
  const double part = std::clamp(strength, 0.0, 1.0);
  int mixed = 0;
  for (const int shift : {16, 8, 0}) {
    const double from = (kMist >> shift) & 0xFF;
    const double to = (kPine >> shift) & 0xFF;
    mixed |= static_cast<int>(std::lround(from + (to - from) * part)) << shift;
  }
  return mixed;
}

void Drawing::rectangle(double left, double bottom, double right, double top, int colour) {
  rectangles_ += fmt::format("{:.1f}\t{:.1f}\t{:.1f}\t{:.1f}\t{:.1f}\t{:.1f}\t{}\n", (left + right) / 2,
                             (bottom + top) / 2, left, right, bottom, top, colour);
}

void Drawing::area(const std::vector<std::pair<double, double>>& corners, int colour) {
  std::string& areas = areas_[colour];
  for (const auto& [x, y] : corners) areas += fmt::format("{:.1f}\t{:.1f}\n", x, y);
  areas += "\n";  // a blank line ends an area
}

void Drawing::line(const std::vector<std::pair<double, double>>& points, int colour, double width) {
  std::string& lines = lines_[width];
  for (const auto& [x, y] : points) lines += fmt::format("{:.1f}\t{:.1f}\t{}\n", x, y, colour);
  lines += "\n";  // a blank line ends a line
}

void Drawing::arrow(std::pair<double, double> from, std::pair<double, double> to, int colour, double width) {
  arrows_[width] += fmt::format("{:.1f}\t{:.1f}\t{:.1f}\t{:.1f}\t{}\n", from.first, from.second,
                                to.first - from.first, to.second - from.second, colour);
}

void Drawing::text(double x, double y, std::string_view text, Align align, int colour, Lettering lettering) {
  if (!text.empty())
    texts_[{lettering, align, colour}] += fmt::format("{:.1f}\t{:.1f}\t{}\n", x, y, field(text));
}

std::map<std::string, std::string> Drawing::files() const {
  std::map<std::string, std::string> files;
  if (!rectangles_.empty()) files["rectangles.tsv"] = rectangles_;
  std::size_t number = 0;
  for (const auto& [width, lines] : lines_) files[fmt::format("lines{}.tsv", number++)] = lines;
  number = 0;
  for (const auto& [colour, areas] : areas_) files[fmt::format("areas{}.tsv", number++)] = areas;
  number = 0;
  for (const auto& [width, arrows] : arrows_) files[fmt::format("arrows{}.tsv", number++)] = arrows;
  number = 0;
  for (const auto& [style, texts] : texts_) files[fmt::format("texts{}.tsv", number++)] = texts;
  return files;
}

std::string Drawing::script(FigureFormat format, const std::string& output) const {
  const std::string_view kind = format == FigureFormat::svg ? "svg" : "pngcairo";
  std::string script = fmt::format(
      "reset\nset terminal {} size {},{} font 'Lato,{}' background rgb '#FFFFFF'\nset output '{}'\n"
      "set encoding utf8\nset datafile separator \"\\t\"\nset datafile commentschars ''\nset termoption "
      "noenhanced\n"
      "unset key\nset lmargin at screen 0\nset rmargin at screen 1\nset bmargin at screen 0\nset tmargin at "
      "screen 1\n"
      "set xrange [0:{}]\nset yrange [0:{}]\nunset border\nunset tics\n",
      kind, kWidth, kHeight, font_size(points_of(Lettering::text), format), output, kWidth, kHeight);
  std::string plots;
  const auto plot = [&](const std::string& what) { plots += (plots.empty() ? "plot " : ", \\\n  ") + what; };
  std::size_t number = 0;
  for (const auto& [colour, areas] : areas_)
    plot(
        fmt::format("'areas{}.tsv' using 1:2 notitle with filledcurves closed fs transparent solid 0.35 "
                    "noborder lc rgb '#{:06X}'",
                    number++, colour));
  number = 0;
  std::vector<std::string> thin, thick;  // the grid is below everything else
  for (const auto& [width, lines] : lines_) {
    const std::string each =
        fmt::format("'lines{}.tsv' using 1:2:3 notitle with lines lw {} lc rgb variable", number++, width);
    (width < 2 ? thin : thick).push_back(each);
  }
  for (const std::string& each : thin) plot(each);
  if (!rectangles_.empty())
    plot("'rectangles.tsv' using 1:2:3:4:5:6:7 notitle with boxxyerror fs solid noborder lc rgb variable");
  for (const std::string& each : thick) plot(each);
  number = 0;
  for (const auto& [width, arrows] : arrows_)
    plot(fmt::format(
        "'arrows{}.tsv' using 1:2:3:4:5 notitle with vectors head filled size first {},22 lw {} lc "
        "rgb variable",
        number++, 12 + 2 * width, width));
  number = 0;
  for (const auto& [style, texts] : texts_) {
    const auto& [lettering, align, colour] = style;
    plot(fmt::format("'texts{}.tsv' using 1:2:3 notitle with labels {} font 'Lato{},{}' tc rgb '#{:06X}'",
                     number++, word_of(align), lettering == Lettering::title ? ":Bold" : "",
                     font_size(points_of(lettering), format), colour));
  }
  return script + plots + "\nset output\n";
}

}  // namespace pear::output
