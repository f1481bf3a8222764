#include "expression/aggregate/aggregate.hpp"

#include <algorithm>
#include <limits>
#include <numeric>
#include <type_traits>
#include <utility>

#include <absl/container/flat_hash_set.h>
#include <fmt/format.h>
#include <tbb/enumerable_thread_specific.h>

#include "base/date.hpp"
#include "base/pair_key.hpp"
#include "daybook/walk_lines.hpp"
#include "expression/aggregate/accumulators.hpp"
#include "expression/evaluate/check.hpp"

namespace pear::expression {
namespace {

std::string_view name_of(Op op) {
  switch (op) {
    case Op::sum:
      return "SUM";
    case Op::average:
      return "AVG";
    case Op::minimum:
      return "MIN";
    case Op::maximum:
      return "MAX";
    case Op::median:
      return "MEDIAN";
    case Op::percentile:
      return "PERCENTILE_CONT";
    case Op::deviation:
    case Op::population_deviation:
      return "STDDEV";
    default:
      return "COUNT";
  }
}

/// Whether the figure of a group can only be computed from all its values.
bool needs_all_values(Op op) {
  return op == Op::median || op == Op::percentile || op == Op::deviation || op == Op::population_deviation;
}

/// Reports for each line whether its member occurs in the group for the first time. Orders and customers
/// follow one another, so the last one of each group is enough to know; pairs of one of these with a product
/// are kept as long as that order or customer lasts.
class FirstTime {
 public:
  FirstTime(Grain grain, std::uint32_t groups)
      : grain_(grain),
        in_pairs_(grain != grain::kLine && !within(grain, grain::kOrder)),
        of_order_(within(grain::kOrder, grain)),
        last_(grain == grain::kLine || in_pairs_ ? 0 : groups, daybook::kNoMember) {}

  bool operator()(std::uint32_t group, const daybook::LinePlace& place) {
    if (grain_ == grain::kLine) return true;
    const std::uint32_t member = of_order_ ? place.order : place.customer;
    if (!in_pairs_) return std::exchange(last_[group], member) != member;
    if (std::exchange(owner_, member) != member) pairs_.clear();
    return pairs_.emplace(pair_key(group, place.product)).second;
  }

 private:
  Grain grain_;
  bool in_pairs_;
  bool of_order_;
  std::vector<std::uint32_t> last_;
  std::uint32_t owner_ = daybook::kNoMember;
  absl::flat_hash_set<std::uint64_t> pairs_;
};

struct MemberValues {
  daybook::Level level;
  std::span<const std::int64_t> by_member;  ///< none if lines or members themselves are counted

  [[nodiscard]] std::int64_t of(const daybook::LinePlace& place) const {
    return by_member.empty() ? 0 : by_member[place.member(level)];
  }
};

/// visit(group, value, place) for each line with a value that passes the filter.
template <class Visit>
void walk_values(const daybook::Daybook& daybook, daybook::CustomerRun run, const LineGroups& groups,
                 const MemberValues& values, daybook::Level filter_level, const std::vector<Truth>& filter,
                 const Visit& visit) {
  daybook::walk_lines(daybook, run, [&](const daybook::LinePlace& place) {
    if (!filter.empty() && filter[place.member(filter_level)] != Truth::is_true) return;
    const std::int64_t value = values.of(place);
    if (value != daybook::kEmptyUnits)
      visit(groups.group_of_cell[groups.cell_of_line[place.line]], value, place);
  });
}

}  // namespace

OrError<Aggregate> Aggregate::compile(const Node& node, const LineView& lines) {
  Aggregate aggregate;
  aggregate.daybook_ = &lines.daybook();
  aggregate.node_ = node;
  aggregate.op_ = node.op;
  aggregate.share_ = node.op == Op::percentile ? node.number : Decimal::kScale / 2;
  aggregate.name_ = node.text.empty() ? std::string(name_of(node.op)) : node.text;
  if (node.op == Op::count_members) aggregate.grain_ = grain_of(static_cast<daybook::Level>(node.number));
  if (!node.args.empty()) PEAR_TRY(aggregate.bind_argument(node, lines));
  if (!node.filter.empty()) PEAR_TRY(aggregate.bind_filter(node, lines));
  aggregate.count_empty_values();
  return aggregate;
}

void Aggregate::count_empty_values() {
  if (std::find(values_.begin(), values_.end(), daybook::kEmptyUnits) == values_.end()) return;
  const std::vector<std::uint8_t> has_lines = daybook::members_with_lines(*daybook_, argument_.level);
  for (std::size_t member = 0; member < values_.size(); ++member)
    empty_values_ += values_[member] == daybook::kEmptyUnits ? has_lines[member] : 0U;
}

OrError<void> Aggregate::bind_argument(const Node& node, const LineView& lines) {
  const Node& arg = node.args.front();
  PEAR_ASSIGN(const Expression expression, Expression::compile(arg, name_, lines.schema()));
  const ValueType type = expression.type();
  const bool numeric = op_ == Op::sum || op_ == Op::average || needs_all_values(op_);
  const bool ordered = op_ == Op::minimum || op_ == Op::maximum;
  if ((numeric && type != ValueType::number) || (ordered && type == ValueType::truth) ||
      type == ValueType::null) {
    Node typed = arg;
    typed.type = type;
    return usage_error(fmt::format("{} needs {}, but {} (column {})", name_of(op_),
                                   numeric   ? "a number"
                                   : ordered ? "a number, a date, a time or a text"
                                             : "a value",
                                   described(typed), arg.at));
  }
  PEAR_ASSIGN(argument_, column_of(expression, lines));
  grain_ = argument_.grain == grain::kConstant ? grain::kLine : argument_.grain;
  values_ = as_integers(*argument_.values, *made_);
  return {};
}

OrError<void> Aggregate::bind_filter(const Node& node, const LineView& lines) {
  PEAR_ASSIGN(const Expression condition, Expression::compile(node.filter.front(), name_, lines.schema()));
  if (condition.type() != ValueType::truth)
    return usage_error(fmt::format("FILTER needs a condition (column {})", node.filter.front().at));
  filter_level_ = LineView::level_for(condition.grain());
  const RowView& rows = lines.rows_of(filter_level_, condition.columns());
  filter_ = truths(condition, rows);
  const auto fault = std::find(filter_.begin(), filter_.end(), Truth::fault);
  if (fault == filter_.end()) return {};
  const auto row = static_cast<std::size_t>(fault - filter_.begin());
  auto checked = condition.evaluate_checked(rows, row, row + 1);
  return tl::unexpected(std::move(checked).error());
}

ValueType Aggregate::type() const {
  return op_ == Op::minimum || op_ == Op::maximum ? argument_.type : ValueType::number;
}

namespace {

/// Values found line by line: those of lines, orders, customers and pairs.
template <class Accumulator>
Accumulator stream(const daybook::Daybook& daybook, const LineGroups& groups, const MemberValues& values,
                   Grain grain, daybook::Level filter_level, const std::vector<Truth>& filter,
                   const Accumulator& fresh) {
  struct Own {
    Accumulator accumulator;
    FirstTime first;
  };
  tbb::enumerable_thread_specific<Own> all([&] { return Own{fresh, FirstTime(grain, groups.groups)}; });
  daybook::for_each_customer_run(daybook, [&](daybook::CustomerRun run) {
    Own& own = all.local();
    walk_values(daybook, run, groups, values, filter_level, filter,
                [&](std::uint32_t group, std::int64_t value, const daybook::LinePlace& place) {
                  if (own.first(group, place)) own.accumulator.add(group, value);
                });
  });
  Accumulator sum = fresh;
  for (const Own& own : all) sum.merge(own.accumulator);
  return sum;
}

/// Values that customers share, so they may occur anywhere: products, and distinct values. They are collected
/// first.
template <class Accumulator>
Results gather(const daybook::Daybook& daybook, const LineGroups& groups, const MemberValues& values,
               bool by_product, daybook::Level filter_level, const std::vector<Truth>& filter,
               Accumulator fresh) {
  using Seen = absl::flat_hash_set<std::pair<std::uint32_t, std::int64_t>>;
  tbb::enumerable_thread_specific<Seen> all;
  daybook::for_each_customer_run(daybook, [&](daybook::CustomerRun run) {
    Seen& own = all.local();
    walk_values(daybook, run, groups, values, filter_level, filter,
                [&](std::uint32_t group, std::int64_t value, const daybook::LinePlace& place) {
                  own.emplace(group, by_product ? place.product : value);
                });
  });
  Seen seen;
  for (Seen& own : all) {
    seen.insert(own.begin(), own.end());
    own = {};
  }
  for (const auto& [group, key] : seen) {
    const bool has_value = by_product && !values.by_member.empty();
    fresh.add(group, has_value ? values.by_member[static_cast<std::size_t>(key)] : 0);
  }
  return fresh.results();
}

}  // namespace

/// use(make), where make(size) creates an accumulator for `size` cells or groups.
template <class Use>
auto Aggregate::with_accumulator(const Use& use) const {
  switch (op_) {
    case Op::sum:
    case Op::average:
      return use([this](std::uint32_t size) { return Summer(size, op_ == Op::average); });
    case Op::minimum:
    case Op::maximum:
      return use([this](std::uint32_t size) { return Extreme(size, op_ == Op::maximum); });
    case Op::median:
    case Op::percentile:
      return use([this](std::uint32_t size) {
        return AllValues(
            size, [this](std::span<const std::int64_t> sorted) { return percentile_of(sorted, share_); });
      });
    case Op::deviation:
    case Op::population_deviation:
      return use([this](std::uint32_t size) {
        return AllValues(size, [this](std::span<const std::int64_t> sorted) {
          return deviation_of(sorted, op_ == Op::deviation);
        });
      });
    default:
      return use([](std::uint32_t size) { return Counter(size); });
  }
}

CellTotals Aggregate::by_cell(std::span<const std::uint32_t> cell_of_line, std::uint32_t cells) const {
  CellTotals totals(*this, cell_of_line);
  if (grain_ != grain::kLine || op_ == Op::count_distinct || needs_all_values(op_)) return totals;
  std::vector<std::uint32_t> itself(cells);
  std::iota(itself.begin(), itself.end(), 0U);
  const LineGroups groups{cell_of_line, itself, cells};
  with_accumulator([&](const auto& make) {
    using Accumulator = decltype(make(0));
    totals.accumulator_ = std::make_shared<Accumulator>(
        stream(*daybook_, groups, {argument_.level, values_}, grain_, filter_level_, filter_, make(cells)));
  });
  return totals;
}

OrError<daybook::ColumnValues> CellTotals::by_group(std::span<const std::uint32_t> group_of_cell,
                                                    std::uint32_t groups) const {
  const Aggregate& of = aggregate_;
  const LineGroups of_lines{cell_of_line_, group_of_cell, groups};
  const MemberValues values{of.argument_.level, of.values_};
  auto found = of.with_accumulator([&](const auto& make) -> Results {
    using Accumulator = decltype(make(0));
    if (of.op_ == Op::count_distinct || of.grain_ == grain::kProduct)
      return gather(*of.daybook_, of_lines, values, of.op_ != Op::count_distinct, of.filter_level_,
                    of.filter_, make(groups));
    if constexpr (!std::is_same_v<Accumulator, AllValues>) {
      if (accumulator_ != nullptr) {
        const auto& by_cell = *std::static_pointer_cast<const Accumulator>(accumulator_);
        Accumulator totals = make(groups);
        for (std::uint32_t cell = 0; cell < group_of_cell.size(); ++cell)
          totals.add_group(group_of_cell[cell], by_cell, cell);
        return totals.results();
      }
    }
    return stream(*of.daybook_, of_lines, values, of.grain_, of.filter_level_, of.filter_, make(groups))
        .results();
  });
  if (!found)
    return data_error(fmt::format(
        "{} is more than 922,337,203,685,477 in one cell. Look for wrong prices or quantities.", of.name_));
  return of.result_of(std::move(*found));
}

OrError<daybook::ColumnValues> Aggregate::by_group(const LineGroups& groups) const {
  return by_cell(groups.cell_of_line, static_cast<std::uint32_t>(groups.group_of_cell.size()))
      .by_group(groups.group_of_cell, groups.groups);
}

OrError<daybook::ColumnValues> Aggregate::result_of(std::vector<std::int64_t> values) const {
  switch (type()) {
    case ValueType::date: {
      daybook::DateValues dates;
      for (const std::int64_t day : values)
        dates.days.push_back(day == daybook::kEmptyUnits ? daybook::kEmptyDays
                                                         : static_cast<std::int32_t>(day));
      return dates;
    }
    case ValueType::time: {
      daybook::TimeValues times;
      for (const std::int64_t second : values)
        times.seconds.push_back(second == daybook::kEmptyUnits ? std::int32_t{Moment::kNoTime}
                                                               : static_cast<std::int32_t>(second));
      return times;
    }
    case ValueType::text: {  // ranks of the texts by code point, back to the texts
      const TextArray& dictionary = std::get<daybook::TextValues>(*argument_.values).dictionary;
      const std::vector<std::uint32_t> by_rank = by_code_point(dictionary);
      daybook::TextValues texts{{}, dictionary};
      for (const std::int64_t rank : values)
        texts.codes.push_back(rank == daybook::kEmptyUnits ? daybook::kEmptyCode
                                                           : by_rank[static_cast<std::size_t>(rank)]);
      return texts;
    }
    default:
      return daybook::DecimalValues{std::move(values)};
  }
}

}  // namespace pear::expression
