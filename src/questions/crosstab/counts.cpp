#include "questions/crosstab/counts.hpp"

#include <algorithm>
#include <iterator>
#include <limits>
#include <utility>

#include <fmt/format.h>

#include "analysis/options/expression_option.hpp"
#include "analysis/tables/member_column.hpp"
#include "analysis/time_keys.hpp"
#include "base/pair_key.hpp"
#include "base/text.hpp"

namespace pear::crosstab {
namespace {

using Kind = ShownValue::Kind;

bool is_numeric(const expression::GroupedExpression& figure) {
  return figure.type() == expression::ValueType::number;
}

}  // namespace

std::string_view word_of(ShareOf of) {
  switch (of) {
    case ShareOf::row:
      return "row";
    case ShareOf::column:
      return "column";
    case ShareOf::parent:
      return "parent";
    case ShareOf::all:
      break;
  }
  return "all";
}

Crosstab::Crosstab(Axis down, Axis across, std::vector<expression::GroupedExpression> figures, Cube cube,
                   Fractions fractions, std::optional<Growth> growth, const Options& options)
    : down_(std::move(down)),
      across_(std::move(across)),
      figures_(std::move(figures)),
      cube_(std::move(cube)),
      fractions_(std::move(fractions)),
      growth_(std::move(growth)),
      options_(options),
      running_(figures_.size()) {
  for (const Axis* axis : {&down_, &across_}) {
    for (const expression::GroupKey& key : axis->keys) parts_ |= key.grain;
  }
  list_shown();
  fit_places();
}

bool Crosstab::adds_up(std::size_t figure) const { return figures_[figure].adds_up(parts_); }

bool Crosstab::can_share(std::size_t figure) const {
  return is_numeric(figures_[figure]) &&
         (adds_up(figure) || figures_[figure].measure() == expression::Measure::count);
}

result::Unit Crosstab::unit(std::size_t figure) const {
  const expression::GroupedExpression& of = figures_[figure];
  if (of.type() == expression::ValueType::date) return result::Unit::date;
  if (of.type() != expression::ValueType::number) return result::Unit::text;
  return of.measure() == expression::Measure::money   ? result::Unit::money
         : of.measure() == expression::Measure::count ? result::Unit::count
                                                      : result::Unit::number;
}

void Crosstab::list_shown() {
  for (std::size_t i = 0; i < figures_.size(); ++i) {
    const std::string& name = figures_[i].name();
    if (!options_.shares_only || !can_share(i)) shown_.push_back({i, Kind::figure, ShareOf::all, name});
    for (const ShareOf of : can_share(i) ? options_.shares : std::vector<ShareOf>())
      shown_.push_back({i, Kind::share, of, fmt::format("{} share of {}", name, word_of(of))});
    for (const Comparison& each : is_numeric(figures_[i]) ? options_.against : std::vector<Comparison>()) {
      if (!each.is_previous) {
        shown_.push_back(
            {i, Kind::against, each.of, fmt::format("{} against {}", name, each.with), each.depth});
        continue;
      }
      shown_.push_back({i, Kind::growth, ShareOf::all, name + " growth"});
      for (const ShareOf of : can_share(i) ? options_.shares : std::vector<ShareOf>())
        shown_.push_back({i, Kind::points, of, fmt::format("{} share of {} points", name, word_of(of))});
    }
    if (!options_.running || !adds_up(i)) continue;
    add_running(i);
    shown_.push_back({i, Kind::running, ShareOf::all, name + " running"});
    shown_.push_back({i, Kind::cumulative_share, ShareOf::all, name + " cumulative share"});
  }
}

/// Sums along an axis over the children of each place, one after another, for each place of the other axis.
void Crosstab::add_running(std::size_t figure) {
  const bool is_down = options_.running == Direction::down;
  const Axis& along = is_down ? down_ : across_;
  const Axis& beside = is_down ? across_ : down_;
  for (const AxisPlace& parent : along.places) {
    for (std::uint32_t other = 0; other < beside.places.size(); ++other) {
      DecimalSum sum;
      for (const std::uint32_t child : parent.children) {
        const std::uint32_t down = is_down ? child : other;
        const std::uint32_t across = is_down ? other : child;
        sum.add(Decimal::from_units(cube_.at(figure, down, across).number));
        if (const auto total = sum.total()) running_[figure].emplace(pair_key(down, across), total->units());
      }
    }
  }
}

/// The cell that a share relates to; none if a row is not deep enough to have it above itself.
std::optional<std::pair<std::uint32_t, std::uint32_t>> Crosstab::whole_of(const ShownValue& shown,
                                                                          std::uint32_t down,
                                                                          std::uint32_t across) const {
  if (shown.kind == Kind::cumulative_share) {
    const bool is_down = options_.running == Direction::down;
    return std::pair(is_down ? down_.places[down].parent : down,
                     is_down ? across : across_.places[across].parent);
  }
  if (shown.depth) {
    const auto above = down_.ancestor(down, *shown.depth);
    if (!above) return std::nullopt;
    return std::pair(*above, across);
  }
  const bool all = shown.share_of == ShareOf::all;
  const std::uint32_t whole_down = all || shown.share_of == ShareOf::column ? 0
                                   : shown.share_of == ShareOf::parent      ? down_.places[down].parent
                                                                            : down;
  return std::pair(whole_down, all || shown.share_of == ShareOf::row ? 0 : across);
}

std::optional<double> Crosstab::unrounded(std::size_t figure, std::uint32_t down,
                                          std::uint32_t across) const {
  const CubeCell cell = cube_.at(figure, down, across);
  if (!cell.filled) return std::nullopt;
  const std::optional<std::size_t> place = fractions_.place_of[figure];
  if (!place) return static_cast<double>(cell.number);
  const CubeCell numerator = fractions_.cube->at(*place, down, across),
                 denominator = fractions_.cube->at(*place + 1, down, across);
  return static_cast<double>(numerator.number) / static_cast<double>(denominator.number);
}

ShownCell Crosstab::change(const ShownValue& shown, std::uint32_t down, std::uint32_t across) const {
  const std::uint32_t place = growth_->is_down ? down : across, before = growth_->previous[place];
  if (before == Growth::kNone) return {};
  const std::uint32_t down_before = growth_->is_down ? before : down,
                      across_before = growth_->is_down ? across : before;
  const bool same_days = growth_->is_unfinished[place] != 0;
  const auto earlier = [&](std::uint32_t d, std::uint32_t a) -> std::optional<double> {
    if (!same_days) return unrounded(shown.figure, d, a);
    const CubeCell cell = growth_->same_days->at(shown.figure, d, a);
    return cell.filled ? std::optional(static_cast<double>(cell.number)) : std::nullopt;
  };
  const auto rounded = [&](std::uint32_t d, std::uint32_t a) -> std::optional<double> {
    const CubeCell cell = cube_.at(shown.figure, d, a);
    return cell.filled ? std::optional(static_cast<double>(cell.number)) : std::nullopt;
  };
  const auto now = same_days ? rounded(down, across) : unrounded(shown.figure, down, across);
  const auto then = earlier(down_before, across_before);
  if (!now || !then) return {};
  if (shown.kind == Kind::growth) {
    if (*then <= 0) return {};
    return {true, 0, *now / *then - 1, {}};
  }
  const auto whole = whole_of(shown, down, across),
             whole_before = whole_of(shown, down_before, across_before);
  if (!whole || !whole_before) return {};
  const auto of = rounded(whole->first, whole->second),
             of_before = earlier(whole_before->first, whole_before->second);
  if (!of || !of_before || *of == 0 || *of_before == 0) return {};
  return {true, 0, *now / *of - *then / *of_before, {}};
}

ShownCell Crosstab::share(const ShownValue& shown, std::uint32_t down, std::uint32_t across) const {
  if (shown.kind == Kind::growth || shown.kind == Kind::points) return change(shown, down, across);
  const auto whole_place = whole_of(shown, down, across);
  if (!whole_place) return {};
  if (shown.kind == Kind::against) {
    const auto part = unrounded(shown.figure, down, across),
               whole = unrounded(shown.figure, whole_place->first, whole_place->second);
    if (!part || !whole || *whole == 0) return {};
    return {true, 0, *part / *whole, {}};
  }
  const CubeCell cell = cube_.at(shown.figure, down, across);
  std::int64_t part = cell.number;
  if (shown.kind == Kind::cumulative_share) {
    const auto found = running_[shown.figure].find(pair_key(down, across));
    if (found == running_[shown.figure].end()) return {};
    part = found->second;
  }
  const CubeCell whole = cube_.at(shown.figure, whole_place->first, whole_place->second);
  if (whole.number == 0) return {};
  return {true, 0, static_cast<double>(part) / static_cast<double>(whole.number), {}};
}

ShownCell Crosstab::value(const ShownValue& shown, std::uint32_t down, std::uint32_t across) const {
  const CubeCell cell = cube_.at(shown.figure, down, across);
  if (!cell.has_lines && options_.empty == EmptyCells::blank) return {};
  if (shown.is_share()) return share(shown, down, across);
  if (shown.kind == Kind::figure) return {cell.filled, cell.number, 0, cell.text};
  const auto found = running_[shown.figure].find(pair_key(down, across));
  if (found == running_[shown.figure].end()) return {};
  return {true, found->second, 0, {}};
}

/// Few decimals for large numbers: nobody reads the cents of millions.
void Crosstab::fit_places() {
  for (std::size_t i = 0; i < figures_.size(); ++i) {
    std::int64_t largest = 0;
    bool whole = true;
    if (is_numeric(figures_[i])) {
      for (const std::uint32_t down : down_.leaves()) {
        const std::int64_t number = cube_.at(i, down, 0).number;
        largest = std::max(largest, number < 0 ? -number : number);
        whole = whole && number % Decimal::kScale == 0;
      }
    }
    const std::int64_t size = largest / Decimal::kScale;
    const bool money = figures_[i].measure() == expression::Measure::money;
    places_.push_back(money                     ? (size >= 10'000 ? 0 : 2)
                      : whole || size >= 10'000 ? 0
                      : size >= 100             ? 1
                      : size >= 1               ? 2
                                                : 4);
  }
}

namespace {

/// The keys of an axis. A year, quarter or month that is the only key of its side has no gaps.
OrError<std::vector<expression::GroupKey>> axis_keys(const std::string& option,
                                                     const std::vector<expression::Tree>& trees,
                                                     const expression::LineView& lines) {
  PEAR_ASSIGN(std::vector<expression::GroupKey> keys, analysis::keys_of(option, trees, lines));
  if (keys.size() == 1) analysis::fill_times(keys.front());
  return keys;
}

OrError<std::vector<expression::GroupedExpression>> compile_figures(
    const std::vector<expression::Tree>& trees, const expression::LineView& lines) {
  std::vector<expression::GroupedExpression> figures;
  for (const expression::Tree& tree : trees) {
    auto figure = expression::GroupedExpression::compile(tree, lines);
    if (!figure) return analysis::in_option("count", figure.error());
    figures.push_back(std::move(*figure));
  }
  return figures;
}

/// Of the figures that are compared.
OrError<Fractions> fractions_of(const Options& options, const expression::LineView& lines,
                                const expression::LineCells& cells, const Axis& down, const Axis& across) {
  Fractions fractions{std::vector<std::optional<std::size_t>>(options.figures.size()), {}};
  std::vector<expression::GroupedExpression> parts;
  for (std::size_t i = 0; i < options.figures.size() && !options.against.empty(); ++i) {
    const auto fraction = expression::fraction_of(options.figures[i]);
    if (!fraction) continue;
    auto numerator = expression::GroupedExpression::compile(fraction->first, lines),
         denominator = expression::GroupedExpression::compile(fraction->second, lines);
    if (!numerator || !denominator) continue;  // one of them is a constant
    fractions.place_of[i] = parts.size();
    parts.push_back(std::move(*numerator));
    parts.push_back(std::move(*denominator));
  }
  if (parts.empty()) return fractions;
  PEAR_ASSIGN(fractions.cube, Cube::compute(cells, down, across, parts));
  return fractions;
}

/// By figure, then by aggregate.
OrError<std::vector<std::vector<std::uint64_t>>> empty_values_of(
    const std::vector<expression::GroupedExpression>& figures, const expression::LineCells& cells) {
  std::vector<const expression::Aggregate*> aggregates;
  for (const expression::GroupedExpression& figure : figures)
    for (const expression::Aggregate& aggregate : figure.aggregates()) aggregates.push_back(&aggregate);
  PEAR_ASSIGN(const std::vector<std::uint64_t> all, cells.empty_values(aggregates));
  std::vector<std::vector<std::uint64_t>> by_figure;
  auto next = all.begin();
  for (const expression::GroupedExpression& figure : figures) {
    const auto end = next + static_cast<std::ptrdiff_t>(figure.aggregates().size());
    by_figure.emplace_back(next, end);
    next = end;
  }
  return by_figure;
}

std::vector<std::string> column_names(const std::vector<expression::Tree>& trees) {
  std::vector<std::string> names;
  for (const expression::Tree& tree : trees) names.push_back(tree.name);
  return names;
}

constexpr std::int64_t kKeptColumns = 50;  ///< of each level, if there are too many
constexpr std::size_t kMostCells = 20'000'000;

bool too_many_columns(const Axis& down, const Axis& across, std::size_t figures) {
  constexpr std::size_t kMostColumns = 16'000;  // the limit of spreadsheets
  const std::size_t columns = across.places.size() * figures;
  return columns > kMostColumns ||
         (columns * down.places.size() > kMostCells && across.places.size() > kKeptColumns + 2);
}

/// Stops early for a table that nobody could open.
OrError<void> check_size(const Axis& down, const Axis& across, std::size_t figures) {
  const std::size_t columns = across.places.size() * figures;
  if (columns * down.places.size() > kMostCells)
    return usage_error(
        fmt::format("{} rows and {} columns are too many cells. Select fewer lines, or use --keep.",
                    with_thousands(static_cast<std::int64_t>(down.places.size())),
                    with_thousands(static_cast<std::int64_t>(columns))));
  return {};
}

}  // namespace

OrError<AxisKeys> axis_keys_of(const Options& options, const expression::LineView& lines) {
  AxisKeys keys;
  PEAR_ASSIGN(keys.down, axis_keys("down", options.down, lines));
  PEAR_ASSIGN(keys.across, axis_keys("across", options.across, lines));
  return keys;
}

OrError<Counts> count_cells(const expression::LineCells& cells, AxisKeys keys,
                            const analysis::QuestionInput& input, const Options& options,
                            const expression::LineView& lines) {
  PEAR_ASSIGN(std::vector<expression::GroupedExpression> figures, compile_figures(options.figures, lines));
  Axis down = make_axis(column_names(options.down), std::move(keys.down), cells, 0);
  Axis across = make_axis(column_names(options.across), std::move(keys.across), cells, options.down.size());
  PEAR_ASSIGN(ChosenRows rows, choose_rows(std::move(down), cells, lines, options, figures));
  std::uint64_t combined = 0;
  if (too_many_columns(rows.axis, across, figures.size())) {
    PEAR_ASSIGN(combined, combine_columns(across, cells, figures.front(), kKeptColumns));
  }
  PEAR_TRY(check_size(rows.axis, across, figures.size()));
  PEAR_ASSIGN(Cube cube, Cube::compute(cells, rows.axis, across, figures));
  PEAR_ASSIGN(Fractions fractions, fractions_of(options, lines, cells, rows.axis, across));
  std::optional<Growth> growth;
  if (std::any_of(options.against.begin(), options.against.end(),
                  [](const Comparison& each) { return each.is_previous; })) {
    PEAR_ASSIGN(growth, growth_of(input, options, lines, cells, rows.axis, across));
  }
  PEAR_ASSIGN(auto empty_values, empty_values_of(figures, cells));
  const std::uint64_t faults = cube.faults();
  return Counts{cells.lines(),
                std::move(empty_values),
                rows.not_having,
                rows.gathered,
                combined,
                faults,
                Crosstab(std::move(rows.axis), std::move(across), std::move(figures), std::move(cube),
                         std::move(fractions), std::move(growth), options)};
}

}  // namespace pear::crosstab
