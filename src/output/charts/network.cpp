#include "output/charts/network.hpp"

#include <algorithm>
#include <cmath>
#include <map>
#include <numbers>
#include <string>

#include "output/tables/readable.hpp"

namespace pear::output {
namespace {

struct Node {
  std::string name;
  double x = 0, y = 0, angle = 0;
};

/// The ends in an order in which neighbours on the circle are often connected: depth first from each end, the
/// strongest lines first.
std::vector<std::string> in_order(const result::TableColumn& from, const result::TableColumn& to) {
  std::vector<std::string> order;
  const auto is_known = [&](const std::string& name) {
    return std::find(order.begin(), order.end(), name) != order.end();
  };
  std::vector<std::string> open;
  for (std::size_t start = 0; start < from.size(); ++start) {
    open.emplace_back(from.text(start));
    while (!open.empty()) {
      const std::string name = open.back();
      open.pop_back();
      if (is_known(name)) continue;
      order.push_back(name);
      for (std::size_t mark = from.size(); mark-- > 0;) {
        if (from.text(mark) == name) open.emplace_back(to.text(mark));
        if (to.text(mark) == name) open.emplace_back(from.text(mark));
      }
    }
  }
  return order;
}

std::vector<Node> on_a_circle(const std::vector<std::string>& names, const PlotArea& area) {
  const double across = 0.30 * area.width(), up = area.height() / 2 - 22;
  const double x = (area.left + area.right) / 2, y = (area.bottom + area.top) / 2;
  std::vector<Node> nodes;
  for (std::size_t i = 0; i < names.size(); ++i) {
    const double angle = std::numbers::pi / 2 - 2 * std::numbers::pi * (static_cast<double>(i) + 0.5) /
                                                    static_cast<double>(names.size());
    nodes.push_back({names[i], x + across * std::cos(angle), y + up * std::sin(angle), angle});
  }
  return nodes;
}

/// Rows of names on either side of the circle, at least one line of text apart.
void draw_names(std::vector<Node>& nodes, const PlotArea& area, Drawing& drawing) {
  constexpr double kLine = 21, kGap = 14;
  constexpr double kOutwards = 12;  // off the lines, at the top and at the bottom
  for (const bool right : {true, false}) {
    std::vector<Node*> side;
    for (Node& node : nodes)
      if ((std::cos(node.angle) >= 0) == right) side.push_back(&node);
    std::stable_sort(side.begin(), side.end(), [](const Node* a, const Node* b) { return a->y > b->y; });
    double free_below = area.top + kLine;
    for (Node* node : side) {
      const double wanted = node->y + kOutwards * std::sin(node->angle);
      const double y = std::min(wanted, free_below - kLine);
      free_below = y;
      const double x = right ? node->x + kGap : node->x - kGap;
      if (y < wanted) drawing.line({{node->x, node->y}, {x, y}}, colour::kOther, 1);
      drawing.text(x, y, cut_to_width(node->name, 28), right ? Align::left : Align::right, colour::kInk,
                   nodes.size() > 24 ? Lettering::small : Lettering::text);
    }
  }
}

}  // namespace

void draw_chart(const result::NetworkChart& chart, const result::Table& marks, PlotArea area,
                Drawing& drawing) {
  const result::TableColumn& from = marks.column(chart.from);
  const result::TableColumn& to = marks.column(chart.to);
  const result::TableColumn& values = marks.column(chart.value);
  std::vector<Node> nodes = on_a_circle(in_order(from, to), area);
  std::map<std::string, const Node*> by_name;
  for (const Node& node : nodes) by_name[node.name] = &node;
  const double largest = value_range({&values}).second;
  for (std::size_t mark = marks.rows(); mark-- > 0;) {  // the strongest on top
    const Node& a = *by_name.at(std::string(from.text(mark)));
    const Node& b = *by_name.at(std::string(to.text(mark)));
    const double strength = largest > 0 ? mark_value(values, mark) / largest : 0;
    drawing.line({{a.x, a.y}, {b.x, b.y}}, colour::shade(0.35 + 0.65 * strength),
                 2 + std::round(4 * strength));
  }
  for (const Node& node : nodes)
    drawing.rectangle(node.x - 5, node.y - 5, node.x + 5, node.y + 5, colour::kPine);
  draw_names(nodes, area, drawing);
}

}  // namespace pear::output
