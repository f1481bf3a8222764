#include "questions/crosstab/rows.hpp"

#include <algorithm>
#include <limits>
#include <utility>

#include <fmt/format.h>

#include "base/text.hpp"

namespace pear::crosstab {
namespace {

/// One criterion of the order: the code of a key at its depth, or a figure of each place.
struct Criterion {
  bool descending = false;
  std::size_t depth = 0;                   ///< of a key; 0 for a figure
  std::vector<expression::Values> values;  ///< of a figure, by depth, then by place

  /// Below 0 if place a comes before place b. Empty figures come last.
  [[nodiscard]] int compare(const Axis& axis, std::uint32_t a, std::uint32_t b) const;
};

int sign(bool less, bool greater) { return less ? -1 : greater ? 1 : 0; }

int Criterion::compare(const Axis& axis, std::uint32_t a, std::uint32_t b) const {
  const AxisPlace& left = axis.places[a];
  const AxisPlace& right = axis.places[b];
  int order = 0;
  if (values.empty()) {
    if (left.depth != depth) return 0;
    order = sign(left.code<right.code, left.code> right.code);
  } else {
    const expression::Values& figures = values[left.depth];
    const bool has_left = figures.states[a] == expression::ValueState::filled;
    const bool has_right = figures.states[b] == expression::ValueState::filled;
    if (!has_left || !has_right) return sign(has_left && !has_right, has_right && !has_left);
    order = figures.type == expression::ValueType::text
                ? figures.texts[a].compare(figures.texts[b])
                : sign(figures.numbers[a]<figures.numbers[b], figures.numbers[a]> figures.numbers[b]);
  }
  return descending ? -order : order;
}

/// A figure of every place, by depth; group g is place g.
OrError<std::vector<expression::Values>> by_place(const expression::GroupedExpression& figure,
                                                  const Axis& axis, const expression::LineCells& cells) {
  const std::unique_ptr<expression::FigureOfCells> of_cells = cells.figure(figure);
  std::vector<expression::Values> by_depth;
  for (std::size_t depth = 0; depth <= axis.depth(); ++depth) {
    std::vector<std::uint32_t> places(cells.size());
    for (std::uint32_t cell = 0; cell < cells.size(); ++cell)
      places[cell] = axis.ancestor(axis.leaf_of_cell[cell], depth).value_or(0);
    PEAR_ASSIGN(expression::Values values,
                of_cells->by_group(places, static_cast<std::uint32_t>(axis.places.size())));
    by_depth.push_back(std::move(values));
  }
  return by_depth;
}

/// Keeps the leaves that meet the condition, and the places above them.
void keep(Axis& axis, const expression::Values& condition, std::uint32_t place, std::uint64_t& dropped) {
  std::vector<std::uint32_t> kept;
  for (const std::uint32_t child : axis.places[place].children) {
    const bool was_leaf = axis.places[child].is_leaf();
    if (!was_leaf) keep(axis, condition, child, dropped);
    const bool stays = was_leaf ? condition.is_true(child) : !axis.places[child].is_leaf();
    if (stays) kept.push_back(child);
    if (was_leaf && !stays) ++dropped;
  }
  axis.places[place].children = std::move(kept);
}

class RowChooser {
 public:
  RowChooser(Axis& axis, std::vector<Criterion> order, std::optional<std::int64_t> keep)
      : axis_(axis), order_(std::move(order)), keep_(keep) {}

  void choose(std::uint32_t place) {
    std::vector<std::uint32_t> children = axis_.places[place].children;
    const auto comes_before = [&](std::uint32_t a, std::uint32_t b) { return before(a, b); };
    if (!std::is_sorted(children.begin(), children.end(), comes_before))  // mostly there is no --sort
      std::stable_sort(children.begin(), children.end(), comes_before);
    if (keep_ && children.size() > static_cast<std::size_t>(*keep_) + 1) gather(place, children);
    axis_.places[place].children = children;
    for (const std::uint32_t child : children) choose(child);
  }
  [[nodiscard]] std::uint64_t gathered() const { return gathered_; }

  /// The cells of combined places now belong to `other`.
  void move_cells() {
    moved_to_.resize(axis_.places.size(), kNotMoved);
    for (std::uint32_t& leaf : axis_.leaf_of_cell) {
      for (std::uint32_t place = leaf; place != 0; place = axis_.places[place].parent) {
        if (moved_to_[place] != kNotMoved) leaf = moved_to_[place];
      }
    }
  }

 private:
  static constexpr std::uint32_t kNotMoved = std::numeric_limits<std::uint32_t>::max();

  [[nodiscard]] bool before(std::uint32_t a, std::uint32_t b) const {
    for (const Criterion& criterion : order_) {
      const int order = criterion.compare(axis_, a, b);
      if (order != 0) return order < 0;
    }
    return axis_.places[a].code < axis_.places[b].code;
  }

  /// All but the first `keep_` children become one.
  void gather(std::uint32_t parent, std::vector<std::uint32_t>& children) {
    const auto kept = static_cast<std::size_t>(*keep_);
    const auto other = static_cast<std::uint32_t>(axis_.places.size());
    const std::size_t many = children.size() - kept;
    gathered_ += many;
    AxisPlace place;
    place.depth = axis_.places[parent].depth + 1;
    place.parent = parent;
    place.code = axis_.keys[place.depth - 1].distinct + 1;
    place.is_other = true;
    place.label = fmt::format("other ({})", with_thousands(static_cast<std::int64_t>(many)));
    moved_to_.resize(axis_.places.size(), kNotMoved);
    for (std::size_t i = kept; i < children.size(); ++i) moved_to_[children[i]] = other;
    axis_.places.push_back(std::move(place));
    children.resize(kept);
    children.push_back(other);
  }

  Axis& axis_;
  std::vector<Criterion> order_;
  std::optional<std::int64_t> keep_;
  std::vector<std::uint32_t> moved_to_;  // by place
  std::uint64_t gathered_ = 0;
};

OrError<expression::GroupedExpression> compiled(const expression::Tree& tree, const std::string& option,
                                                const expression::LineView& lines, const Options& options) {
  auto figure = expression::GroupedExpression::compile(tree, lines, options.figures);
  if (!figure)
    return tl::unexpected(
        Error{figure.error().kind, fmt::format("--{}: {}", option, figure.error().message)});
  return figure;
}

OrError<Criterion> criterion_of(const expression::SortKey& key, const Axis& axis,
                                const expression::LineCells& cells, const expression::LineView& lines,
                                const Options& options) {
  for (std::size_t i = 0; i < axis.names.size(); ++i) {
    if (key.tree.text == axis.names[i]) return Criterion{key.descending, i + 1, {}};
  }
  PEAR_ASSIGN(const expression::GroupedExpression figure, compiled(key.tree, "sort", lines, options));
  PEAR_ASSIGN(std::vector<expression::Values> values, by_place(figure, axis, cells));
  return Criterion{key.descending, 0, std::move(values)};
}

}  // namespace

OrError<ChosenRows> choose_rows(Axis down, const expression::LineCells& cells,
                                const expression::LineView& lines, const Options& options,
                                const std::vector<expression::GroupedExpression>& figures) {
  ChosenRows chosen{std::move(down), 0, 0};
  std::vector<Criterion> order;
  for (const expression::SortKey& key : options.sort) {
    PEAR_ASSIGN(Criterion criterion, criterion_of(key, chosen.axis, cells, lines, options));
    order.push_back(std::move(criterion));
  }
  if (options.keep && order.empty()) {
    PEAR_ASSIGN(std::vector<expression::Values> values, by_place(figures.front(), chosen.axis, cells));
    order.push_back({true, 0, std::move(values)});
  }
  if (options.having) {
    PEAR_ASSIGN(const expression::GroupedExpression having,
                compiled(*options.having, "having", lines, options));
    if (having.type() != expression::ValueType::truth)
      return usage_error(
          fmt::format("--having takes a condition such as \"sales > 1000\", but {} is not a condition.",
                      in_quotes(options.having->text)));
    PEAR_ASSIGN(const std::vector<expression::Values> holds, by_place(having, chosen.axis, cells));
    keep(chosen.axis, holds.back(), 0, chosen.not_having);
  }
  RowChooser chooser(chosen.axis, std::move(order), options.keep);
  chooser.choose(0);
  chooser.move_cells();
  chosen.gathered = chooser.gathered();
  return chosen;
}

OrError<std::uint64_t> combine_columns(Axis& across, const expression::LineCells& cells,
                                       const expression::GroupedExpression& figure, std::int64_t most) {
  PEAR_ASSIGN(std::vector<expression::Values> values, by_place(figure, across, cells));
  RowChooser chooser(across, {{true, 0, std::move(values)}}, most);
  chooser.choose(0);
  chooser.move_cells();
  return chooser.gathered();
}

}  // namespace pear::crosstab
