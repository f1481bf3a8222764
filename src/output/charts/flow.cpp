#include "output/charts/flow.hpp"

#include <algorithm>
#include <array>
#include <map>
#include <string>
#include <vector>

#include <fmt/format.h>

#include "base/text.hpp"
#include "output/tables/readable.hpp"

namespace pear::output {
namespace {

struct Band {
  std::size_t from = 0, to = 0;  ///< positions among the names
  double value = 0;
};

/// A step: how many reached each member, by its position among the names.
struct Stage {
  std::vector<double> values;
  std::vector<double> tops;           ///< in pixels
  std::vector<double> left, arrived;  ///< how much of each bar's two sides is covered by bands
  std::vector<Band> bands;            ///< that arrive here
};

std::vector<std::string> names_of(const result::FlowChart& chart, const result::Table& marks) {
  std::map<std::string, double> totals;
  std::vector<std::string> names;
  const result::TableColumn& to = marks.column(chart.to);
  for (std::size_t mark = 0; mark < marks.rows(); ++mark) {
    std::string name(to.text(mark));
    if (totals.try_emplace(name).second) names.push_back(name);
    totals[name] += mark_value(marks.column(chart.value), mark);
  }
  return names;
}

/// The figure's marks are in order of the members: the first step has nearly all of them.
std::vector<Stage> stages_of(const result::FlowChart& chart, const result::Table& marks,
                             const std::vector<std::string>& names) {
  const auto place = [&](std::string_view name) {
    return static_cast<std::size_t>(std::find(names.begin(), names.end(), name) - names.begin());
  };
  std::vector<Stage> stages;
  for (std::size_t mark = 0; mark < marks.rows(); ++mark) {
    const auto step = static_cast<std::size_t>(marks.column(chart.step).integer(mark));
    while (stages.size() < step) {
      const std::vector<double> none(names.size());
      stages.push_back({none, none, none, none, {}});
    }
    const std::size_t to = place(marks.column(chart.to).text(mark));
    const double value = mark_value(marks.column(chart.value), mark);
    stages[step - 1].values[to] += value;
    if (step > 1) stages[step - 1].bands.push_back({place(marks.column(chart.from).text(mark)), to, value});
  }
  return stages;
}

/// Bars under one another, with a gap between them.
void place_bars(Stage& stage, const PlotArea& area, double scale, double gap) {
  double top = area.top;
  for (std::size_t thing = 0; thing < stage.values.size(); ++thing) {
    stage.tops[thing] = top;
    if (stage.values[thing] > 0) top -= stage.values[thing] * scale + gap;
  }
}

/// A band that bends from one height to another, as corners around it.
std::vector<std::pair<double, double>> bent(double left, double right, double top_left, double top_right,
                                            double height) {
  constexpr int kCorners = 24;
  std::vector<std::pair<double, double>> corners;
  const auto at = [&](int i, double lower) {
    const double t = static_cast<double>(i) / kCorners, s = t * t * (3 - 2 * t);
    corners.emplace_back(left + t * (right - left), top_left + s * (top_right - top_left) - lower);
  };
  for (int i = 0; i <= kCorners; ++i) at(i, 0);
  for (int i = kCorners; i >= 0; --i) at(i, height);
  return corners;
}

int colour_of(std::size_t thing, const std::vector<std::string>& names) {
  constexpr std::array<int, 8> kColours = {colour::kPine,  colour::kPear, colour::kSage, colour::kOchre,
                                           colour::kSlate, colour::kPlum, colour::kInk,  colour::kOther};
  return names[thing] == "no further" ? colour::kGrid : kColours.at(std::min<std::size_t>(thing, 7));
}

std::string ordinal(std::size_t step) {
  constexpr std::array<const char*, 5> kWords = {"first", "second", "third", "fourth", "fifth"};
  return step <= kWords.size() ? kWords.at(step - 1) : fmt::format("{}th", step);
}

}  // namespace

void draw_chart(const result::FlowChart& chart, const result::Table& marks, PlotArea area, Drawing& drawing) {
  constexpr double kBar = 22, kLabels = 190, kLeastForLabel = 15;
  const std::vector<std::string> names = names_of(chart, marks);
  std::vector<Stage> stages = stages_of(chart, marks, names);
  double all = 0;
  for (const double value : stages.front().values) all += value;
  area.top -= 40;
  const double gap = 7;
  const double scale = (area.height() - gap * static_cast<double>(names.size())) / all;
  const double per_stage =
      stages.size() < 2 ? 0 : (area.width() - kLabels - kBar) / static_cast<double>(stages.size() - 1);
  const auto x_of = [&](std::size_t stage) { return area.left + per_stage * static_cast<double>(stage); };
  for (std::size_t s = 0; s < stages.size(); ++s) {
    Stage& stage = stages[s];
    place_bars(stage, area, scale, gap);
    for (const Band& band : stage.bands) {
      Stage& before = stages[s - 1];
      const double height = band.value * scale;
      drawing.area(bent(x_of(s - 1) + kBar, x_of(s), before.tops[band.from] - before.left[band.from],
                        stage.tops[band.to] - stage.arrived[band.to], height),
                   names[band.to] == "no further" ? colour::kOther : colour_of(band.from, names));
      before.left[band.from] += height;
      stage.arrived[band.to] += height;
    }
    double sum = 0;
    for (std::size_t thing = 0; thing < names.size(); ++thing) {
      const double value = stage.values[thing], top = stage.tops[thing];
      if (value <= 0) continue;
      if (names[thing] != "no further") sum += value;
      drawing.rectangle(x_of(s), top - value * scale, x_of(s) + kBar, top, colour_of(thing, names));
      if (value * scale < kLeastForLabel) continue;
      drawing.text(x_of(s) + kBar + 8, top - value * scale / 2,
                   fmt::format("{} {:.0f}%", cut_to_width(names[thing], 18), 100 * value / all), Align::left,
                   colour::kInk, Lettering::small);
    }
    drawing.text(x_of(s), area.top + 22, fmt::format("{} ({:.0f}%)", ordinal(s + 1), 100 * sum / all),
                 Align::left, colour::kSlate);
  }
}

}  // namespace pear::output
