// Rectangles, areas, lines and texts in pixels, drawn by gnuplot.
#pragma once

#include <map>
#include <string>
#include <string_view>
#include <tuple>
#include <utility>
#include <vector>

#include "output/charts/figure_writer.hpp"

namespace pear::output {

// The colours of the design (section 10).
namespace colour {
constexpr int kPine = 0x2F5D50;
constexpr int kSage = 0x6F8F72;
constexpr int kMist = 0xE7EFE9;
constexpr int kPear = 0xC9B458;
constexpr int kOchre = 0xC9842F;
constexpr int kPlum = 0x7A3B5E;
constexpr int kInk = 0x1D2B36;
constexpr int kSlate = 0x5B6770;
constexpr int kGrid = 0xE3E7E9;
constexpr int kOther = 0xA9B8AC;  ///< for what is combined as other
constexpr int kWhite = 0xFFFFFF;

/// From mist (0) to pine (1), for ordered quantities.
[[nodiscard]] int shade(double strength);
}  // namespace colour

enum class Align { left, center, right };
enum class Lettering { text, title, small };

/// A drawing of 1280x800 pixels, from the bottom left. Later rectangles cover earlier ones; lines are above
/// rectangles, and texts above both. Areas are below them all. Texts occur only in gnuplot's data files, so
/// that none becomes a command.
class Drawing {
 public:
  static constexpr int kWidth = 1280;
  static constexpr int kHeight = 800;
  static constexpr double kCharacter = 10.5;      ///< about the width of one letter of a text
  static constexpr double kSmallCharacter = 8.4;  ///< of a small one

  void rectangle(double left, double bottom, double right, double top, int colour);
  /// Filled and transparent, below everything else.
  void area(const std::vector<std::pair<double, double>>& corners, int colour);
  void line(const std::vector<std::pair<double, double>>& points, int colour, double width);
  /// A line with a head at its end.
  void arrow(std::pair<double, double> from, std::pair<double, double> to, int colour, double width);
  /// The text's middle is at y.
  void text(double x, double y, std::string_view text, Align align = Align::left, int colour = colour::kSlate,
            Lettering lettering = Lettering::text);

  /// gnuplot's data files, by name.
  [[nodiscard]] std::map<std::string, std::string> files() const;
  /// Draws into the file `output` of gnuplot's working folder.
  [[nodiscard]] std::string script(FigureFormat format, const std::string& output) const;

 private:
  using Style = std::tuple<Lettering, Align, int>;
  std::map<int, std::string> areas_;  ///< by colour
  std::string rectangles_;
  std::map<double, std::string> lines_;  ///< by width
  std::map<double, std::string> arrows_;
  std::map<Style, std::string> texts_;
};

}  // namespace pear::output
