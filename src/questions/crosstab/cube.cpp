#include "questions/crosstab/cube.hpp"

#include <algorithm>
#include <limits>
#include <numeric>

namespace pear::crosstab {
namespace {

/// Labels within the range of those that occur: see fill_times.
void add_labels_without_cells(Axis& axis) {
  std::vector<std::uint32_t> children = axis.places[0].children;
  if (children.empty()) return;
  const expression::GroupKey& key = axis.keys[0];
  std::vector<std::uint32_t> filled;
  for (const std::uint32_t child : children) {
    const std::uint32_t before =
        filled.empty() ? axis.places[child].code : axis.places[filled.back()].code + 1;
    for (std::uint32_t code = before;
         key.has_gaps_filled && code < axis.places[child].code && code < key.distinct; ++code) {
      filled.push_back(static_cast<std::uint32_t>(axis.places.size()));
      axis.places.push_back({1, 0, code, false, expression::label_text(key, code), {}});
    }
    filled.push_back(child);
  }
  axis.places[0].children = std::move(filled);
}

}  // namespace

std::optional<std::uint32_t> Axis::ancestor(std::uint32_t place, std::size_t depth) const {
  if (places[place].depth < depth) return std::nullopt;
  while (places[place].depth > depth) place = places[place].parent;
  return place;
}

std::vector<std::string> Axis::labels(std::uint32_t place) const {
  std::vector<std::string> labels;
  for (; places[place].depth > 0; place = places[place].parent) labels.push_back(places[place].label);
  std::reverse(labels.begin(), labels.end());
  return labels;
}

std::vector<std::uint32_t> Axis::leaves() const {
  std::vector<std::uint32_t> leaves;
  std::vector<std::uint32_t> open = {0};
  while (!open.empty()) {
    const std::uint32_t place = open.back();
    open.pop_back();
    if (places[place].is_leaf() && (place != 0 || keys.empty())) leaves.push_back(place);
    open.insert(open.end(), places[place].children.rbegin(), places[place].children.rend());
  }
  return leaves;
}

Axis make_axis(std::vector<std::string> names, std::vector<expression::GroupKey> keys,
               const expression::LineCells& lines, std::size_t first) {
  Axis axis;
  axis.names = std::move(names);
  axis.keys = std::move(keys);
  axis.places.emplace_back();
  const auto code = [&](std::uint32_t cell, std::size_t key) { return lines.codes()[first + key][cell]; };
  std::vector<std::uint32_t> cells(lines.size());
  std::iota(cells.begin(), cells.end(), 0U);
  const auto before = [&](std::uint32_t a, std::uint32_t b) {
    for (std::size_t i = 0; i < axis.depth(); ++i) {
      if (code(a, i) != code(b, i)) return code(a, i) < code(b, i);
    }
    return false;
  };
  // Cells of customers are in order already.
  if (!std::is_sorted(cells.begin(), cells.end(), before))
    std::stable_sort(cells.begin(), cells.end(), before);
  if (axis.depth() == 1) axis.places.reserve(cells.size() + 1);
  axis.leaf_of_cell.resize(lines.size());
  for (const std::uint32_t cell : cells) {
    std::uint32_t place = 0;
    for (std::size_t i = 0; i < axis.depth(); ++i) {
      const auto& children = axis.places[place].children;
      if (children.empty() || axis.places[children.back()].code != code(cell, i)) {
        const auto child = static_cast<std::uint32_t>(axis.places.size());
        axis.places.push_back(
            {i + 1, place, code(cell, i), false, expression::label_text(axis.keys[i], code(cell, i)), {}});
        axis.places[place].children.push_back(child);
      }
      place = axis.places[place].children.back();
    }
    axis.leaf_of_cell[cell] = place;
  }
  if (axis.depth() == 1) add_labels_without_cells(axis);
  return axis;
}

OrError<Cube> Cube::compute(const expression::LineCells& cells, const Axis& down, const Axis& across,
                            const std::vector<expression::GroupedExpression>& figures) {
  Cube cube;
  const auto depths_of = [](const Axis& axis) {
    std::vector<std::uint8_t> depths;
    for (const AxisPlace& place : axis.places) depths.push_back(static_cast<std::uint8_t>(place.depth));
    return depths;
  };
  cube.down_depths_ = depths_of(down);
  cube.across_depths_ = depths_of(across);
  cube.depths_across_ = across.depth() + 1;
  cube.groups_.assign(down.places.size() * across.places.size(), kNoLines);
  Figures of_cells;
  for (const expression::GroupedExpression& figure : figures) of_cells.push_back(cells.figure(figure));
  for (std::size_t a = 0; a <= down.depth(); ++a) {
    for (std::size_t b = 0; b <= across.depth(); ++b)
      PEAR_TRY(cube.add(cells.size(), down, across, of_cells, {a, b}));
  }
  return cube;
}

OrError<void> Cube::add(std::uint32_t cells, const Axis& down, const Axis& across, const Figures& figures,
                        std::pair<std::size_t, std::size_t> depths) {
  constexpr std::uint32_t kElsewhere = std::numeric_limits<std::uint32_t>::max();
  std::vector<std::uint32_t> group_of_cell(cells, kElsewhere);
  std::uint32_t groups = 0;
  for (std::uint32_t cell = 0; cell < cells; ++cell) {
    const auto d = down.ancestor(down.leaf_of_cell[cell], depths.first);
    const auto a = across.ancestor(across.leaf_of_cell[cell], depths.second);
    if (!d || !a) continue;
    std::uint32_t& known = groups_[position(*d, *a)];
    if (known == kNoLines) known = groups++;
    group_of_cell[cell] = known;
  }
  // After the groups: one without lines, for the figures of empty cells, and one for lines that are in no
  // group.
  std::replace(group_of_cell.begin(), group_of_cell.end(), kElsewhere, groups + 1);
  const bool of_cells = depths.first == down.depth() && depths.second == across.depth();
  std::vector<expression::Values> all;
  for (const auto& figure : figures) {
    expression::FaultCount faults{groups};
    PEAR_ASSIGN(expression::Values values, figure->by_group(group_of_cell, groups + 2, &faults));
    if (of_cells) faults_ += faults.count;
    all.push_back(std::move(values));
  }
  values_.push_back(std::move(all));
  return {};
}

CubeCell Cube::at(std::size_t figure, std::uint32_t down, std::uint32_t across) const {
  const std::uint32_t group = groups_[position(down, across)];
  const bool has_lines = group != kNoLines;
  const expression::Values& values =
      values_[down_depths_[down] * depths_across_ + across_depths_[across]][figure];
  const std::size_t row = has_lines ? group : values.size() - 2;
  if (values.states[row] != expression::ValueState::filled) return {has_lines, false, 0, {}};
  if (values.type == expression::ValueType::text) return {has_lines, true, 0, values.texts[row]};
  return {has_lines, true, values.numbers[row], {}};
}

}  // namespace pear::crosstab
