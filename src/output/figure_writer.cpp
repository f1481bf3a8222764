#include "output/figure_writer.hpp"

#include <algorithm>
#include <cmath>
#include <cstdlib>
#include <filesystem>
#include <fstream>
#include <sstream>

#include <fmt/format.h>

#include "base/text.hpp"
#include "output/atomic_file.hpp"
#include "output/program.hpp"
#include "output/readable.hpp"

namespace pear {
namespace {

// The house's colours (design, section 10).
constexpr std::string_view kPine = "0x2F5D50";
constexpr std::string_view kOchre = "0xC9842F";

constexpr int kWidth = 1280;
constexpr int kHeight = 800;
constexpr int kLeft = 40;             // where the texts begin
constexpr int kPlotLeft = 110;
constexpr int kPlotRight = kWidth - 40;
constexpr int kPlotBottom = 92;
constexpr int kTitleLine = 34;
constexpr std::size_t kTitleWidth = 92;  // characters of bold 24 that fit
constexpr std::size_t kMostValuesOnBars = 15;

/// A text as a field of a gnuplot data file: no tabs or line ends, and no double quotes, which gnuplot would take
/// for its own.
std::string field(std::string_view text) {
  std::string result;
  for (const char c : text) {
    if (c == '"') result += "”";
    else result += static_cast<unsigned char>(c) < 0x20 ? ' ' : c;
  }
  return result;
}

/// A folder for gnuplot's input, removed with all that is in it.
class ScratchFolder {
 public:
  ScratchFolder() {
    std::string name = (std::filesystem::temp_directory_path() / "pear-thread-XXXXXX").string();
    if (mkdtemp(name.data()) != nullptr) path_ = name;
  }
  ~ScratchFolder() {
    std::error_code ignored;
    if (!path_.empty()) std::filesystem::remove_all(path_, ignored);
  }
  ScratchFolder(const ScratchFolder&) = delete;
  ScratchFolder& operator=(const ScratchFolder&) = delete;
  [[nodiscard]] bool made() const { return !path_.empty(); }
  [[nodiscard]] std::string file(const std::string& name) const { return path_ + "/" + name; }

 private:
  std::string path_;
};

/// Bars as gnuplot wants them.
class BarChart {
 public:
  explicit BarChart(const Figure& figure)
      : figure_(figure),
        labels_(figure.marks.columns[figure.label]),
        values_(figure.marks.columns[figure.value]),
        is_share_(values_.unit == Unit::share),
        title_(wrapped(figure.title, kTitleWidth)) {}

  /// Position, height, colour, label under the bar, value over it: one line a bar.
  [[nodiscard]] std::string data() const {
    std::string text;
    const bool with_values = bars() <= kMostValuesOnBars;
    for (std::size_t bar = 0; bar < bars(); ++bar) {
      const bool noticed = std::count(figure_.noticed.begin(), figure_.noticed.end(), bar) > 0;
      text += fmt::format("{}\t{}\t{}\t{}\t{}\n", bar, height(bar), std::stol(std::string(noticed ? kOchre : kPine), nullptr, 16),
                          shows_label(bar) ? field(labels_.text(bar)) : " ",
                          with_values || noticed ? readable_cell(values_, bar) : " ");
    }
    return text;
  }

  /// x, y in pixels from the bottom left, text: title lines, subtitle, axis titles, each kind in a file of its own.
  [[nodiscard]] std::string title_data() const {
    std::string text;
    int y = kHeight - 44;
    for (const std::string& line : title_) {
      text += fmt::format("{}\t{}\t{}\n", kLeft, y, field(line));
      y -= kTitleLine;
    }
    return text;
  }
  [[nodiscard]] std::string side_data() const {
    const int below_title = kHeight - 44 - kTitleLine * static_cast<int>(title_.size());
    return fmt::format("{}\t{}\t{}\n{}\t{}\t{}\n{}\t{}\t{}\n", kLeft, below_title, field(figure_.subtitle), kLeft,
                       plot_top() + 28, field(figure_.value_title), (kPlotLeft + kPlotRight) / 2, 30, field(figure_.label_title));
  }

  [[nodiscard]] std::string script(const ScratchFolder& scratch, FigureFormat format, const std::string& out) const {
    std::ostringstream script;
    script << terminal(format) << fmt::format("set output '{}'\n", out)
           << "set encoding utf8\nset datafile separator \"\\t\"\nset datafile commentschars ''\n"
           << "set termoption noenhanced\nunset key\nset multiplot\n"
           << "set lmargin at screen 0\nset rmargin at screen 1\nset bmargin at screen 0\nset tmargin at screen 1\n"
           << fmt::format("set xrange [0:{}]\nset yrange [0:{}]\nunset border\nunset tics\n", kWidth, kHeight)
           << fmt::format("plot '{}' using 1:2:3 with labels left font 'Lato:Bold,{}' tc rgb '#1D2B36', "
                          "'{}' using 1:2:3 with labels left font 'Lato,{}' tc rgb '#5B6770'\n",
                          scratch.file("title.tsv"), points(24), scratch.file("side.tsv"), points(15))
           << plot(scratch) << "unset multiplot\nset output\n";
    return script.str();
  }

 private:
  [[nodiscard]] std::size_t bars() const { return figure_.marks.rows(); }
  [[nodiscard]] int plot_top() const {
    return kHeight - 44 - kTitleLine * static_cast<int>(title_.size()) - 76;
  }
  [[nodiscard]] double height(std::size_t bar) const {
    return is_share_ ? 100 * values_.fraction(bar) : static_cast<double>(values_.integer(bar));
  }

  /// Labels that would run into each other are thinned: months by quarters and years, others evenly.
  [[nodiscard]] bool shows_label(std::size_t bar) const {
    constexpr double kPixelsPerCharacter = 9.5;
    std::size_t longest = 0;
    for (std::size_t i = 0; i < bars(); ++i) longest = std::max(longest, display_width(labels_.text(i)));
    const double per_bar = static_cast<double>(kPlotRight - kPlotLeft) / static_cast<double>(bars());
    const auto wanted = static_cast<std::size_t>(std::ceil((static_cast<double>(longest) + 2) * kPixelsPerCharacter / per_bar));
    if (figure_.axis == Figure::Axis::categories) return bar % std::max<std::size_t>(wanted, 1) == 0;
    std::size_t step = 1;
    for (const std::size_t months : {1U, 3U, 6U, 12U, 24U, 60U, 120U}) {
      step = months;
      if (months >= wanted) break;
    }
    const std::string month(labels_.text(bar));  // "2024-09"
    return (std::stoul(month.substr(0, 4)) * 12 + std::stoul(month.substr(5)) - 1) % step == 0;
  }

  /// Cairo's text is measured in points of 1/96 inch where its pixels are 1/72; sizes here are pixels.
  static int points(int pixels) { return pixels; }

  static std::string terminal(FigureFormat format) {
    const std::string_view kind = format == FigureFormat::svg ? "svg" : "pngcairo";
    return fmt::format("reset\nset terminal {} size {},{} font 'Lato,{}' background rgb '#FFFFFF'\n", kind, kWidth,
                       kHeight, points(15));
  }

  [[nodiscard]] std::string ticks() const {
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

  [[nodiscard]] std::string plot(const ScratchFolder& scratch) const {
    const auto across = [](int pixels) { return static_cast<double>(pixels) / kWidth; };
    const auto upwards = [](int pixels) { return static_cast<double>(pixels) / kHeight; };
    std::string text = fmt::format("set lmargin at screen {}\nset rmargin at screen {}\nset bmargin at screen {}\n"
                                   "set tmargin at screen {}\n",
                                   across(kPlotLeft), across(kPlotRight), upwards(kPlotBottom), upwards(plot_top()));
    text += fmt::format("set xrange [-0.6:{}]\n", static_cast<double>(bars()) - 0.4) + ticks();
    text += "set grid ytics lt 1 lc rgb '#E3E7E9' lw 1 back\nset xtics scale 0 tc rgb '#5B6770'\n";
    const std::string data = scratch.file("bars.tsv");
    text += fmt::format("plot '{0}' using 1:2:(0.72):3:xtic(4) with boxes fs solid noborder lc rgb variable, "
                        "'{0}' using 1:2:5 with labels offset 0,0.8 font 'Lato,{1}' tc rgb '#1D2B36'\n",
                        data, points(15));
    return text;
  }

  const Figure& figure_;
  const TableColumn& labels_;
  const TableColumn& values_;
  bool is_share_;
  std::vector<std::string> title_;
};

OrError<void> run_gnuplot(const ScratchFolder& scratch) {
  PEAR_ASSIGN(const ProgramEnd end, run_program({"gnuplot", scratch.file("script.gp")}, scratch.file("messages")));
  if (end == ProgramEnd::not_found)
    return io_error("no figure was drawn: gnuplot is not installed. Install it (Debian: apt install gnuplot-nox fonts-lato), or ask with --figure none.");
  if (end == ProgramEnd::well) return {};
  std::ifstream messages(scratch.file("messages"));
  std::ostringstream said;
  said << messages.rdbuf();
  return io_error(fmt::format("no figure was drawn: gnuplot failed and said {}", in_quotes(said.str())));
}

}  // namespace

std::string extension(FigureFormat format) { return format == FigureFormat::svg ? "svg" : "png"; }

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

OrError<std::vector<std::string>> write_figure(const Figure& figure, const std::string& folder, const std::string& stem,
                                               const std::vector<FigureFormat>& formats) {
  const ScratchFolder scratch;
  if (!scratch.made()) return io_error("no figure was drawn: there is no folder for temporary files.");
  const BarChart chart(figure);
  std::string script;
  for (const FigureFormat format : formats)
    script += chart.script(scratch, format, scratch.file("figure." + extension(format)));
  PEAR_TRY(write_file(scratch.file("title.tsv"), chart.title_data()));
  PEAR_TRY(write_file(scratch.file("side.tsv"), chart.side_data()));
  PEAR_TRY(write_file(scratch.file("bars.tsv"), chart.data()));
  PEAR_TRY(write_file(scratch.file("script.gp"), script));
  PEAR_TRY(run_gnuplot(scratch));
  std::vector<std::string> written;
  for (const FigureFormat format : formats) {
    std::ifstream drawn(scratch.file("figure." + extension(format)), std::ios::binary);
    std::ostringstream bytes;
    bytes << drawn.rdbuf();
    if (bytes.str().empty()) return io_error("no figure was drawn: gnuplot wrote nothing.");
    written.push_back(folder + "/" + stem + "." + extension(format));
    PEAR_TRY(write_file(written.back(), bytes.str()));
  }
  return written;
}

}  // namespace pear
