#include "output/bar_chart.hpp"

#include <algorithm>
#include <cmath>
#include <sstream>

#include <fmt/format.h>

#include "base/text.hpp"
#include "output/readable.hpp"

namespace pear {
namespace {

// The house's colours (design, section 10).
constexpr int kPine = 0x2F5D50;
constexpr int kOchre = 0xC9842F;

constexpr int kWidth = 1280;
constexpr int kHeight = 800;
constexpr int kLeft = 40;  // where the texts begin
constexpr int kPlotLeft = 110;
constexpr int kPlotRight = kWidth - 40;
constexpr int kPlotBottom = 92;
constexpr int kTitleTop = kHeight - 46;
constexpr int kTitleLine = 38;
constexpr int kTitleSize = 24;  // points
constexpr int kTextSize = 15;
constexpr std::size_t kTitleWidth = 68;  // characters of bold 24 that fit
constexpr std::size_t kMostValuesOnBars = 15;

/// A text as a field of a gnuplot data file: no tabs or line ends, and no double quotes, which gnuplot would
/// take for its own.
std::string field(std::string_view text) {
  std::string result;
  for (const char c : text) {
    if (c == '"')
      result += "”";
    else
      result += static_cast<unsigned char>(c) < 0x20 ? ' ' : c;
  }
  return result;
}

/// Months from one label to the next, where a month takes so many characters.
std::size_t months_per_label(double characters_per_month) {
  constexpr double kLabelAndGap = 8.5;  // "2024-09"
  for (const std::size_t months : {1U, 3U, 6U, 12U, 24U, 60U}) {
    if (static_cast<double>(months) * characters_per_month >= kLabelAndGap) return months;
  }
  return 120;
}

/// gnuplot takes sizes as points of 1/72 inch for PNG, at 96 pixels an inch, and as pixels for SVG.
int font_size(int points, FigureFormat format) {
  return format == FigureFormat::svg ? points * 96 / 72 : points;
}

std::string terminal(FigureFormat format) {
  const std::string_view kind = format == FigureFormat::svg ? "svg" : "pngcairo";
  return fmt::format("reset\nset terminal {} size {},{} font 'Lato,{}' background rgb '#FFFFFF'\n", kind,
                     kWidth, kHeight, font_size(kTextSize, format));
}

}  // namespace

BarChart::BarChart(const Figure& figure)
    : figure_(figure),
      labels_(figure.marks.columns[figure.label]),
      values_(figure.marks.columns[figure.value]),
      is_share_(values_.unit == Unit::share),
      title_(wrapped(figure.title, kTitleWidth)) {}

std::string BarChart::bar_data() const {
  std::string text;
  const bool with_values = bars() <= kMostValuesOnBars;
  const std::vector<bool> with_label = shown_labels();
  for (std::size_t bar = 0; bar < bars(); ++bar) {
    const bool noticed = std::count(figure_.noticed.begin(), figure_.noticed.end(), bar) > 0;
    text += fmt::format("{}\t{}\t{}\t{}\t{}\n", bar, height(bar), noticed ? kOchre : kPine,
                        with_label[bar] ? field(labels_.text(bar)) : " ",
                        with_values || noticed ? readable_cell(values_, bar) : " ");
  }
  return text;
}

std::string BarChart::title_data() const {
  std::string text;
  int y = kTitleTop;
  for (const std::string& line : title_) {
    text += fmt::format("{}\t{}\t{}\n", kLeft, y, field(line));
    y -= kTitleLine;
  }
  return text;
}
std::string BarChart::side_data() const {
  const int below_title = kTitleTop - kTitleLine * static_cast<int>(title_.size());
  return fmt::format("{}\t{}\t{}\n{}\t{}\t{}\n", kLeft, below_title, field(figure_.subtitle), kLeft,
                     plot_top() + 30, field(figure_.value_title));
}
std::string BarChart::below_data() const {
  return fmt::format("{}\t{}\t{}\n", (kPlotLeft + kPlotRight) / 2, 26, field(figure_.label_title));
}

std::string BarChart::script(FigureFormat format, const std::string& drawing) const {
  std::ostringstream script;
  const int title_size = font_size(kTitleSize, format);
  const int text_size = font_size(kTextSize, format);
  script
      << terminal(format) << fmt::format("set output '{}'\n", drawing)
      << "set encoding utf8\nset datafile separator \"\\t\"\nset datafile commentschars ''\n"
      << "set termoption noenhanced\nunset key\nset multiplot\n"
      << "set lmargin at screen 0\nset rmargin at screen 1\nset bmargin at screen 0\nset tmargin at screen "
         "1\n"
      << fmt::format("set xrange [0:{}]\nset yrange [0:{}]\nunset border\nunset tics\n", kWidth, kHeight)
      << fmt::format(
             "plot 'title.tsv' using 1:2:3 notitle with labels left font 'Lato:Bold,{0}' tc rgb '#1D2B36', "
             "'side.tsv' using 1:2:3 notitle with labels left font 'Lato,{1}' tc rgb '#5B6770', "
             "'below.tsv' using 1:2:3 notitle with labels center font 'Lato,{1}' tc rgb '#5B6770'\n",
             title_size, text_size)
      << plot(text_size) << "unset multiplot\nset output\n";
  return script.str();
}

int BarChart::plot_top() const { return kTitleTop - kTitleLine * static_cast<int>(title_.size()) - 80; }
double BarChart::height(std::size_t bar) const {
  return is_share_ ? 100 * values_.fraction(bar) : static_cast<double>(values_.integer(bar));
}

/// Which bars have their label shown, so that none runs into another: months by quarters and years, others
/// wherever there is room.
std::vector<bool> BarChart::shown_labels() const {
  constexpr double kPixelsPerCharacter = 11;
  constexpr double kGap = 14;
  const double per_bar = static_cast<double>(kPlotRight - kPlotLeft) / static_cast<double>(bars());
  std::vector<bool> shown(bars());
  const std::size_t step = months_per_label(per_bar / kPixelsPerCharacter);
  double free_from = -per_bar;
  for (std::size_t bar = 0; bar < bars(); ++bar) {
    const double middle = per_bar * static_cast<double>(bar);
    const double half = kPixelsPerCharacter * static_cast<double>(display_width(labels_.text(bar))) / 2;
    const bool fits =
        figure_.axis == Figure::Axis::months ? month_number(bar) % step == 0 : middle - half >= free_from;
    if (!fits) continue;
    shown[bar] = true;
    free_from = middle + half + kGap;
  }
  return shown;
}

std::size_t BarChart::month_number(std::size_t bar) const {
  const std::string month(labels_.text(bar));  // "2024-09"
  return std::stoul(month.substr(0, 4)) * 12 + std::stoul(month.substr(5)) - 1;
}

std::string BarChart::ticks() const {
  double largest = 0;
  for (std::size_t bar = 0; bar < bars(); ++bar) largest = std::max(largest, height(bar));
  const std::vector<double> at = round_ticks(largest);
  std::string list;
  for (const double tick : at) {
    const std::string label = is_share_ ? fmt::format("{}%%", tick)  // a label is a format to gnuplot
                                        : with_thousands(static_cast<std::int64_t>(tick));
    list += fmt::format("{}'{}' {}", list.empty() ? "" : ", ", label, tick);
  }
  return fmt::format("set yrange [0:{}]\nset ytics ({}) scale 0 tc rgb '#5B6770'\n", at.back() * 1.04, list);
}

std::string BarChart::plot(int text_size) const {
  const auto across = [](int pixels) { return static_cast<double>(pixels) / kWidth; };
  const auto upwards = [](int pixels) { return static_cast<double>(pixels) / kHeight; };
  std::string text = fmt::format(
      "set lmargin at screen {}\nset rmargin at screen {}\nset bmargin at screen {}\n"
      "set tmargin at screen {}\n",
      across(kPlotLeft), across(kPlotRight), upwards(kPlotBottom), upwards(plot_top()));
  text += fmt::format("set xrange [-0.6:{}]\n", static_cast<double>(bars()) - 0.4) + ticks();
  text += "set grid ytics lt 1 lc rgb '#E3E7E9' lw 1 back\nset xtics scale 0 tc rgb '#5B6770'\n";
  text += fmt::format(
      "plot 'bars.tsv' using 1:2:(0.72):3:xtic(4) notitle with boxes fs solid noborder lc rgb variable, "
      "'bars.tsv' using 1:2:5 notitle with labels offset 0,0.8 font 'Lato,{}' tc rgb '#1D2B36'\n",
      text_size);
  return text;
}

std::vector<double> round_ticks(double largest) {
  constexpr double kMostSteps = 6;
  double step = 1;
  while (largest / step > kMostSteps) step *= 10;
  for (const double finer : {step / 5, step / 2}) {
    if (finer >= 1 && largest / finer <= kMostSteps) {
      step = finer;
      break;
    }
  }
  std::vector<double> ticks{0};
  do ticks.push_back(ticks.back() + step);
  while (ticks.back() < largest);
  return ticks;
}

}  // namespace pear
