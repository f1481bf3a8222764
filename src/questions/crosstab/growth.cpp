#include "questions/crosstab/growth.hpp"

#include <algorithm>
#include <array>
#include <map>
#include <string_view>
#include <utility>

#include <fmt/format.h>

#include "analysis/options/day_span.hpp"
#include "analysis/options/expression_option.hpp"
#include "base/text.hpp"
#include "base/whole_months.hpp"

namespace pear::crosstab {
namespace {

struct Period {
  std::string_view column;
  std::int32_t months;  ///< 0: a week
};
constexpr std::array<Period, 4> kPeriods = {{{"year", 12}, {"quarter", 3}, {"month", 1}, {"week", 0}}};

const Period* period_of(const expression::GroupKey& key) {
  const auto found = std::find_if(kPeriods.begin(), kPeriods.end(),
                                  [&](const Period& period) { return period.column == key.source; });
  return found == kPeriods.end() ? nullptr : &*found;
}

/// The depth of the last time key of an axis; 0 if there is none.
std::size_t time_depth(const Axis& axis) {
  for (std::size_t depth = axis.depth(); depth > 0; --depth)
    if (period_of(axis.keys[depth - 1]) != nullptr) return depth;
  return 0;
}

std::optional<analysis::DaySpan> span_of(const AxisPlace& place) {
  auto span = analysis::parse_day_span("", place.label, Date{});
  return span ? std::optional(*span) : std::nullopt;
}

/// The children of a place by code.
using Children = std::vector<std::map<std::uint32_t, std::uint32_t>>;

Children children_of(const Axis& axis) {
  Children children(axis.places.size());
  for (std::uint32_t place = 0; place < axis.places.size(); ++place)
    for (const std::uint32_t child : axis.places[place].children)
      children[place].emplace(axis.places[child].code, child);
  return children;
}

/// Places of the time key, with the one of the period before.
class PeriodPlaces {
 public:
  PeriodPlaces(const Axis& axis, std::size_t depth)
      : axis_(axis), depth_(depth), children_(children_of(axis)) {
    for (const std::uint32_t place : places())
      if (const auto span = span_of(axis_.places[place])) {
        const AxisPlace& of = axis_.places[place];
        by_end_[{of.parent, span->last.days}] = place;
        spans_[place] = *span;
      }
  }

  [[nodiscard]] const std::map<std::uint32_t, analysis::DaySpan>& spans() const { return spans_; }

  /// The same place in the period before; kNone if it has no place.
  [[nodiscard]] std::uint32_t before(std::uint32_t place) const {
    std::vector<std::uint32_t> path;  // from below the time key to the place
    std::uint32_t at = place;
    for (; axis_.places[at].depth > depth_; at = axis_.places[at].parent)
      path.push_back(axis_.places[at].code);
    const auto span = spans_.find(at);
    if (span == spans_.end()) return Growth::kNone;
    const auto found = by_end_.find({axis_.places[at].parent, span->second.first.days - 1});
    if (found == by_end_.end()) return Growth::kNone;
    std::uint32_t earlier = found->second;
    for (auto code = path.rbegin(); code != path.rend(); ++code) {
      const auto child = children_[earlier].find(*code);
      if (child == children_[earlier].end()) return Growth::kNone;
      earlier = child->second;
    }
    return earlier;
  }

  /// The place of the time key that contains a place; kNone for one above it.
  [[nodiscard]] std::uint32_t period(std::uint32_t place) const {
    if (axis_.places[place].depth < depth_) return Growth::kNone;
    while (axis_.places[place].depth > depth_) place = axis_.places[place].parent;
    return place;
  }

 private:
  [[nodiscard]] std::vector<std::uint32_t> places() const {
    std::vector<std::uint32_t> all;
    for (std::uint32_t place = 0; place < axis_.places.size(); ++place)
      if (axis_.places[place].depth == depth_ && !axis_.places[place].is_other) all.push_back(place);
    return all;
  }

  const Axis& axis_;
  std::size_t depth_;
  Children children_;
  std::map<std::pair<std::uint32_t, std::int32_t>, std::uint32_t> by_end_;  // by parent and last day
  std::map<std::uint32_t, analysis::DaySpan> spans_;
};

/// order_date <= day
expression::Node up_to(Date day) {
  expression::Node column, date, condition;
  column.op = expression::Op::column;
  column.text = daybook::role::kOrderDate;
  date.op = expression::Op::date_literal;
  date.number = day.days;
  condition.op = expression::Op::less_or_equal;
  condition.args = {std::move(column), std::move(date)};
  return condition;
}

OrError<Cube> cube_up_to(Date day, const Options& options, const expression::LineView& lines,
                         const expression::LineCells& cells, const Axis& down, const Axis& across) {
  std::vector<expression::GroupedExpression> figures;
  for (const expression::Tree& tree : options.figures) {
    auto figure = expression::GroupedExpression::compile(tree, lines, {}, up_to(day));
    if (!figure) return analysis::in_option("count", figure.error());
    figures.push_back(std::move(*figure));
  }
  return Cube::compute(cells, down, across, figures);
}

}  // namespace

OrError<Growth> growth_of(const analysis::QuestionInput& input, const Options& options,
                          const expression::LineView& lines, const expression::LineCells& cells,
                          const Axis& down, const Axis& across) {
  Growth growth;
  growth.depth = time_depth(across);
  if (growth.depth == 0) growth.is_down = true, growth.depth = time_depth(down);
  if (growth.depth == 0)
    return usage_error(
        "--against previous needs year, quarter, month or week in --across or --down, to compare one with "
        "the "
        "one before.");
  const Axis& axis = growth.is_down ? down : across;
  const Period& period = *period_of(axis.keys[growth.depth - 1]);
  const PeriodPlaces places(axis, growth.depth);
  growth.previous.assign(axis.places.size(), Growth::kNone);
  growth.is_unfinished.assign(axis.places.size(), 0);
  const Date data_end = input.data_end, data_begin = *input.population.first_date;
  const Date same_day = period.months == 0 ? Date{data_end.days - 7} : months_before(data_end, period.months);
  std::string unfinished, begun;
  for (std::uint32_t place = 0; place < axis.places.size(); ++place) {
    const std::uint32_t of_period = places.period(place);
    const auto span = places.spans().find(of_period);
    if (of_period == Growth::kNone || span == places.spans().end()) continue;
    growth.previous[place] = places.before(place);
    const auto [first, last, relative] = span->second;
    if (last > data_end && first <= data_end) {
      growth.is_unfinished[place] = 1;
      unfinished = axis.places[of_period].label;
    }
    if (first < data_begin && data_begin <= last) begun = axis.places[of_period].label;
  }
  if (!unfinished.empty()) {
    PEAR_ASSIGN(growth.same_days, cube_up_to(same_day, options, lines, cells, down, across));
    growth.notes.push_back(
        fmt::format("{} is not over at the end of the data, {}: it is compared with the {} before up to {}.",
                    unfinished, to_text(data_end), period.column, to_text(same_day)));
  }
  if (!begun.empty())
    growth.notes.push_back(fmt::format("The data begins on {}, within {}: growth from it may be too high.",
                                       to_text(data_begin), begun));
  return growth;
}

}  // namespace pear::crosstab
