#include "output/charts/arrows.hpp"

#include <algorithm>
#include <cmath>
#include <string>
#include <utility>
#include <vector>

#include "output/tables/readable.hpp"

namespace pear::output {
namespace {

struct Edge {
  std::size_t from = 0, to = 0, mark = 0;
};

/// The members and the arrows between them, without arrows that would close a circle.
struct Graph {
  std::vector<std::string> names;
  std::vector<Edge> edges;
  std::vector<std::size_t> layer;  ///< by member: the longest way to it
  std::vector<double> row;         ///< by member, from the top
  std::size_t layers = 1;
  double rows = 0;
};

std::size_t place_of(std::vector<std::string>& names, std::string_view name) {
  const auto found = std::find(names.begin(), names.end(), name);
  if (found != names.end()) return static_cast<std::size_t>(found - names.begin());
  names.emplace_back(name);
  return names.size() - 1;
}

/// Each member is visited once, however many ways reach it.
bool leads_to(const std::vector<Edge>& edges, std::size_t from, std::size_t to, std::size_t things) {
  std::vector<bool> is_met(things);
  std::vector<std::size_t> open = {from};
  while (!open.empty()) {
    const std::size_t thing = open.back();
    open.pop_back();
    if (thing == to) return true;
    if (is_met[thing]) continue;
    is_met[thing] = true;
    for (const Edge& edge : edges)
      if (edge.from == thing) open.push_back(edge.to);
  }
  return false;
}

/// Marks in their order, so that of arrows in a circle the first ones are kept.
Graph graph_of(const result::TableColumn& sources, const result::TableColumn& targets) {
  Graph graph;
  for (std::size_t mark = 0; mark < sources.size(); ++mark) {
    const std::size_t from = place_of(graph.names, sources.text(mark));
    const std::size_t to = place_of(graph.names, targets.text(mark));
    if (!leads_to(graph.edges, to, from, graph.names.size())) graph.edges.push_back({from, to, mark});
  }
  graph.layer.resize(graph.names.size());
  for (std::size_t round = 0; round < graph.names.size(); ++round)
    for (const Edge& edge : graph.edges)
      graph.layer[edge.to] = std::max(graph.layer[edge.to], graph.layer[edge.from] + 1);
  // A member that only has followers is placed right before them.
  for (std::size_t thing = 0; thing < graph.names.size(); ++thing) {
    if (graph.layer[thing] > 0) continue;
    std::size_t nearest = graph.names.size();
    for (const Edge& edge : graph.edges)
      if (edge.from == thing) nearest = std::min(nearest, graph.layer[edge.to]);
    if (nearest < graph.names.size()) graph.layer[thing] = nearest - 1;
  }
  for (const std::size_t layer : graph.layer) graph.layers = std::max(graph.layers, layer + 1);
  return graph;
}

/// Sets the rows of members that are connected, one such group below the other.
class RowSetter {
 public:
  explicit RowSetter(Graph& graph) : graph_(graph), is_met_(graph.names.size()), is_set_(graph.names.size()) {
    graph.row.resize(graph.names.size());
    for (std::size_t thing = 0; thing < graph.names.size(); ++thing) {
      if (is_met_[thing]) continue;
      group_.clear();
      meet(thing);
      std::sort(group_.begin(), group_.end());
      if (is_tree())
        for (const std::size_t each : group_) set_tree(each);
      else
        set_layers();
    }
    graph.rows = next_;
  }

 private:
  void meet(std::size_t thing) {
    is_met_[thing] = true;
    group_.push_back(thing);
    for (const Edge& edge : graph_.edges) {
      if (edge.from == thing && !is_met_[edge.to]) meet(edge.to);
      if (edge.to == thing && !is_met_[edge.from]) meet(edge.from);
    }
  }

  [[nodiscard]] std::size_t ways_into(std::size_t thing) const {
    return static_cast<std::size_t>(std::count_if(graph_.edges.begin(), graph_.edges.end(),
                                                  [&](const Edge& edge) { return edge.to == thing; }));
  }
  [[nodiscard]] bool is_tree() const {
    return std::all_of(group_.begin(), group_.end(), [&](std::size_t thing) { return ways_into(thing) < 2; });
  }

  /// A member without a follower has a row of its own; the others are placed in the middle of their
  /// followers.
  void set_tree(std::size_t thing) {
    if (is_set_[thing] || (ways_into(thing) > 0 && !is_inside_)) return;
    is_set_[thing] = true;
    double sum = 0, count = 0;
    const bool outer = std::exchange(is_inside_, true);
    for (const Edge& edge : graph_.edges) {
      if (edge.from != thing) continue;
      set_tree(edge.to);
      sum += graph_.row[edge.to];
      ++count;
    }
    is_inside_ = outer;
    graph_.row[thing] = count > 0 ? sum / count : next_++;
  }

  /// Each layer in the middle of the tallest one.
  void set_layers() {
    std::vector<double> sizes(graph_.layers), placed(graph_.layers);
    for (const std::size_t thing : group_) ++sizes[graph_.layer[thing]];
    const double tallest = *std::max_element(sizes.begin(), sizes.end());
    for (const std::size_t thing : group_) {
      const std::size_t layer = graph_.layer[thing];
      graph_.row[thing] = next_ + (tallest - sizes[layer]) / 2 + placed[layer]++;
    }
    next_ += tallest;
  }

  Graph& graph_;
  std::vector<bool> is_met_, is_set_;
  std::vector<std::size_t> group_;
  bool is_inside_ = false;  ///< the tree being placed
  double next_ = 0;
};

/// Words in up to two lines of about the same width.
std::vector<std::string> in_two_lines(const std::string& name, std::size_t width) {
  if (display_width(name) <= width) return {name};
  std::size_t best = std::string::npos, narrowest = name.size() + 1;
  for (std::size_t space = name.find(' '); space != std::string::npos; space = name.find(' ', space + 1)) {
    const std::size_t wider = std::max(display_width(std::string_view(name).substr(0, space)),
                                       display_width(std::string_view(name).substr(space + 1)));
    if (wider < narrowest) best = space, narrowest = wider;
  }
  if (best == std::string::npos) return {cut_to_width(name, width)};
  return {cut_to_width(name.substr(0, best), width), cut_to_width(name.substr(best + 1), width)};
}

struct Boxes {
  double width = 0, height = 0, per_layer = 0, per_row = 0;
  const PlotArea& area;
  [[nodiscard]] double left(std::size_t layer) const {
    return area.left + static_cast<double>(layer) * per_layer;
  }
  [[nodiscard]] double middle(double row) const { return area.top - (row + 0.5) * per_row; }
};

/// Where the caption of an arrow is drawn.
enum class CaptionPlace { on_arrow, in_source, in_target };

/// At the end where the arrow is the only one, if others share its other end.
CaptionPlace caption_place(const Graph& graph, const Edge& edge) {
  const auto into = std::count_if(graph.edges.begin(), graph.edges.end(),
                                  [&](const Edge& other) { return other.to == edge.to; });
  const auto out = std::count_if(graph.edges.begin(), graph.edges.end(),
                                 [&](const Edge& other) { return other.from == edge.from; });
  if (out > 1 && into == 1) return CaptionPlace::in_target;
  return into > 1 && out == 1 ? CaptionPlace::in_source : CaptionPlace::on_arrow;
}

/// A name in as many lines as there is room for.
std::vector<std::string> lines_of(const std::string& name, std::size_t width, std::size_t room) {
  constexpr std::size_t kFew = 2;
  std::vector<std::string> lines = room > kFew ? wrapped(name, width) : in_two_lines(name, width);
  if (lines.size() > room) lines = {cut_to_width(name, width)};
  for (std::string& line : lines) line = cut_to_width(line, width);
  return lines;
}

void draw_box(const std::string& name, const std::string& caption, double left, double middle,
              const Boxes& boxes, Drawing& drawing) {
  constexpr double kLine = 18.5;
  drawing.rectangle(left, middle - boxes.height / 2, left + boxes.width, middle + boxes.height / 2,
                    colour::kMist);
  const bool small = boxes.width < 260;
  const double character = small ? Drawing::kSmallCharacter : Drawing::kCharacter;
  const auto width = static_cast<std::size_t>(std::max(1.0, (boxes.width - 16) / character));
  const std::size_t room = static_cast<std::size_t>(boxes.height / kLine) - (caption.empty() ? 0 : 1);
  const std::vector<std::string> lines = lines_of(name, width, room);
  const double all = static_cast<double>(lines.size()) + (caption.empty() ? 0 : 1);
  double y = middle + (all - 1) * kLine / 2;
  for (const std::string& line : lines) {
    drawing.text(left + boxes.width / 2, y, line, Align::center, colour::kInk,
                 small ? Lettering::small : Lettering::text);
    y -= kLine;
  }
  drawing.text(left + boxes.width / 2, y, cut_to_width(caption, width), Align::center, colour::kSlate,
               Lettering::small);
}

/// Above the middle of an arrow. Where the gap is too narrow, the second half is below it, and both are apart
/// from the arrow's head.
void draw_caption(const std::string& caption, std::pair<double, double> from, std::pair<double, double> to,
                  double gap, Drawing& drawing) {
  constexpr double kApart = 16, kApartFromHead = 26;
  const double steep = (to.second - from.second) / (to.first - from.first);
  const double x = (from.first + to.first) / 2, y = (from.second + to.second) / 2;
  const auto width = static_cast<std::size_t>(std::max(1.0, gap / Drawing::kSmallCharacter));
  std::vector<std::string> lines = in_two_lines(caption, width);
  const double apart = (lines.size() > 1 ? kApartFromHead : kApart) + 50 * std::abs(steep);
  if (lines.size() > 1 && lines.front().ends_with(',')) lines.front().pop_back();
  drawing.text(x, y + apart, lines.front(), Align::center, colour::kInk, Lettering::small);
  if (lines.size() > 1)
    drawing.text(x, y - apart, lines.back(), Align::center, colour::kInk, Lettering::small);
}

}  // namespace

void draw_chart(const result::ArrowChart& chart, const result::Table& marks, PlotArea area,
                Drawing& drawing) {
  constexpr double kWidestGap = 190, kWidest = 330;
  Graph graph = graph_of(marks.column(chart.from), marks.column(chart.to));
  const RowSetter rows(graph);
  const auto layers = static_cast<double>(graph.layers);
  Boxes boxes{0, 0, 0, 0, area};
  // Long chains have narrower gaps, so that half of the width is left for the boxes.
  const double gap = std::min(kWidestGap, area.width() / 2 / std::max(1.0, layers - 1));
  boxes.width = std::min(kWidest, (area.width() - (layers - 1) * gap) / layers);
  boxes.per_layer = graph.layers > 1 ? (area.width() - boxes.width) / (layers - 1) : 0;
  constexpr double kNarrow = 130;  // names need more lines
  const bool is_narrow = boxes.width < kNarrow;
  boxes.per_row = std::min(is_narrow ? 150.0 : 110.0, area.height() / std::max(1.0, graph.rows));
  boxes.height = std::min(is_narrow ? 106.0 : 66.0, 0.9 * boxes.per_row);
  const result::TableColumn& values = marks.column(chart.value);
  const double largest = value_range({&values}).second;
  std::vector<std::string> captions(graph.names.size());
  for (const Edge& edge : graph.edges) {
    const std::pair from(boxes.left(graph.layer[edge.from]) + boxes.width + 6,
                         boxes.middle(graph.row[edge.from]));
    const std::pair to(boxes.left(graph.layer[edge.to]) - 6, boxes.middle(graph.row[edge.to]));
    const double strength = largest > 0 ? mark_value(values, edge.mark) / largest : 0;
    drawing.arrow(from, to, is_noticed(chart.noticed, edge.mark) ? colour::kPine : colour::kOther,
                  2 + std::round(5 * strength));
    const std::string caption(marks.column(chart.caption).text(edge.mark));
    const CaptionPlace place = caption_place(graph, edge);
    if (place != CaptionPlace::on_arrow) {
      captions[place == CaptionPlace::in_target ? edge.to : edge.from] = caption;
      continue;
    }
    draw_caption(caption, from, to, gap, drawing);
  }
  for (std::size_t thing = 0; thing < graph.names.size(); ++thing)
    draw_box(graph.names[thing], captions[thing], boxes.left(graph.layer[thing]),
             boxes.middle(graph.row[thing]), boxes, drawing);
}

}  // namespace pear::output
