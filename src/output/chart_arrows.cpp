// Things in columns from left to right, and arrows from each to what follows it.
#include <algorithm>
#include <cmath>
#include <map>
#include <string>
#include <vector>

#include "output/chart.hpp"
#include "output/readable.hpp"

namespace pear {
namespace {

struct Edge {
  std::size_t from = 0, to = 0, mark = 0;
};

/// The things and the arrows between them, without those that would lead back to where they came from.
struct Graph {
  std::vector<std::string> names;
  std::vector<Edge> edges;
  std::vector<std::size_t> layer;  ///< by thing: the longest way to it
  std::vector<double> row;         ///< by thing, from the top
  std::size_t layers = 1;
  double rows = 0;
};

std::size_t place_of(std::vector<std::string>& names, std::string_view name) {
  const auto found = std::find(names.begin(), names.end(), name);
  if (found != names.end()) return static_cast<std::size_t>(found - names.begin());
  names.emplace_back(name);
  return names.size() - 1;
}

bool leads_to(const std::vector<Edge>& edges, std::size_t from, std::size_t to) {
  if (from == to) return true;
  return std::any_of(edges.begin(), edges.end(),
                     [&](const Edge& edge) { return edge.from == from && leads_to(edges, edge.to, to); });
}

/// Marks in their order, so that of arrows in a circle the first ones stay.
Graph graph_of(const Figure& figure) {
  Graph graph;
  for (std::size_t mark = 0; mark < figure.marks.rows(); ++mark) {
    const std::size_t from = place_of(graph.names, figure.marks.columns[figure.label].text(mark));
    const std::size_t to = place_of(graph.names, figure.marks.columns[*figure.along].text(mark));
    if (!leads_to(graph.edges, to, from)) graph.edges.push_back({from, to, mark});
  }
  graph.layer.resize(graph.names.size());
  for (std::size_t round = 0; round < graph.names.size(); ++round)
    for (const Edge& edge : graph.edges)
      graph.layer[edge.to] = std::max(graph.layer[edge.to], graph.layer[edge.from] + 1);
  // What only leads to something stands right before it.
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

/// Rows as those of a tree: what leads nowhere further has a row of its own, all else stands in the middle of
/// what it leads to. Everything is visited once, from the first thing that leads to it.
class RowSetter {
 public:
  explicit RowSetter(Graph& graph) : graph_(graph), is_set_(graph.names.size()) {
    graph.row.resize(graph.names.size());
    for (std::size_t thing = 0; thing < graph.names.size(); ++thing)
      if (!is_set_[thing] && is_source(thing)) set(thing);
    graph.rows = next_;
  }

 private:
  [[nodiscard]] bool is_source(std::size_t thing) const {
    return std::none_of(graph_.edges.begin(), graph_.edges.end(),
                        [&](const Edge& edge) { return edge.to == thing; });
  }

  void set(std::size_t thing) {
    is_set_[thing] = true;
    double sum = 0, count = 0;
    for (const Edge& edge : graph_.edges) {
      if (edge.from != thing || is_set_[edge.to]) continue;
      set(edge.to);
      sum += graph_.row[edge.to];
      ++count;
    }
    graph_.row[thing] = count > 0 ? sum / count : next_++;
    for (std::size_t other = 0; other < graph_.names.size(); ++other)  // joined from elsewhere: near by
      if (!is_set_[other] && is_source(other) && meets(other)) set(other);
  }

  /// Whether something leads to what stands already.
  [[nodiscard]] bool meets(std::size_t thing) const {
    return std::any_of(graph_.edges.begin(), graph_.edges.end(),
                       [&](const Edge& edge) { return edge.from == thing && is_set_[edge.to]; });
  }

  Graph& graph_;
  std::vector<bool> is_set_;
  double next_ = 0;
};

/// Words in up to two lines.
std::vector<std::string> in_two_lines(const std::string& name, std::size_t width) {
  if (display_width(name) <= width) return {name};
  std::size_t cut = name.rfind(' ', width);
  if (cut == std::string::npos || cut == 0) return {cut_to_width(name, width)};
  return {name.substr(0, cut), cut_to_width(name.substr(cut + 1), width)};
}

struct Boxes {
  double width = 0, height = 0, per_layer = 0, per_row = 0;
  const PlotArea& area;
  [[nodiscard]] double left(std::size_t layer) const {
    return area.left + static_cast<double>(layer) * per_layer;
  }
  [[nodiscard]] double middle(double row) const { return area.top - (row + 0.5) * per_row; }
};

void draw_box(const std::string& name, double left, double middle, const Boxes& boxes, Drawing& drawing) {
  constexpr double kSmallCharacter = 8.4, kLine = 19;
  drawing.rectangle(left, middle - boxes.height / 2, left + boxes.width, middle + boxes.height / 2,
                    colour::kMist);
  const bool small = boxes.width < 260;
  const double character = small ? kSmallCharacter : Drawing::kCharacter;
  std::vector<std::string> lines =
      in_two_lines(name, static_cast<std::size_t>((boxes.width - 16) / character));
  if (boxes.height < 2 * kLine)
    lines = {cut_to_width(name, static_cast<std::size_t>(boxes.width / character))};
  double y = middle + (static_cast<double>(lines.size()) - 1) * kLine / 2;
  for (const std::string& line : lines) {
    drawing.text(left + boxes.width / 2, y, line, Align::center, colour::kInk,
                 small ? Lettering::small : Lettering::text);
    y -= kLine;
  }
}

void draw_arrow(std::pair<double, double> from, std::pair<double, double> to, double width, int colour,
                Drawing& drawing) {
  const double x = to.first - from.first, y = to.second - from.second, length = std::hypot(x, y);
  const double along = 13 + width, across = 6 + width / 2;
  const std::pair base(to.first - x / length * along, to.second - y / length * along);
  const std::pair side(-y / length * across, x / length * across);
  drawing.line({from, base}, colour, width);
  drawing.line({{base.first + side.first, base.second + side.second},
                to,
                {base.first - side.first, base.second - side.second},
                {base.first + side.first, base.second + side.second}},
               colour, 2);
  drawing.line({base, {to.first - x / length * 4, to.second - y / length * 4}}, colour, width);
}

}  // namespace

void draw_arrows(const Figure& figure, PlotArea area, Drawing& drawing) {
  constexpr double kGap = 190, kWidest = 330;
  Graph graph = graph_of(figure);
  const RowSetter rows(graph);
  const auto layers = static_cast<double>(graph.layers);
  Boxes boxes{0, 0, 0, 0, area};
  boxes.width = std::min(kWidest, (area.width() - (layers - 1) * kGap) / layers);
  boxes.per_layer = graph.layers > 1 ? (area.width() - boxes.width) / (layers - 1) : 0;
  boxes.per_row = std::min(110.0, area.height() / std::max(1.0, graph.rows));
  boxes.height = std::min(56.0, 0.72 * boxes.per_row);
  const TableColumn& values = figure.marks.columns[figure.values.front()];
  const double largest = value_range(figure).second;
  for (const Edge& edge : graph.edges) {
    const std::pair from(boxes.left(graph.layer[edge.from]) + boxes.width + 6,
                         boxes.middle(graph.row[edge.from]));
    const std::pair to(boxes.left(graph.layer[edge.to]) - 6, boxes.middle(graph.row[edge.to]));
    const double strength = largest > 0 ? mark_value(values, edge.mark) / largest : 0;
    draw_arrow(from, to, 2 + std::round(5 * strength), colour::kPine, drawing);
    const double steep = (to.second - from.second) / (to.first - from.first);
    drawing.text((from.first + to.first) / 2, (from.second + to.second) / 2 + 16 + 30 * std::abs(steep),
                 figure.marks.columns[*figure.captions].text(edge.mark), Align::center, colour::kInk,
                 Lettering::small);
  }
  for (std::size_t thing = 0; thing < graph.names.size(); ++thing)
    draw_box(graph.names[thing], boxes.left(graph.layer[thing]), boxes.middle(graph.row[thing]), boxes,
             drawing);
}

}  // namespace pear
