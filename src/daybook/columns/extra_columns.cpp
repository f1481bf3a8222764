#include "daybook/columns/extra_columns.hpp"

#include <algorithm>
#include <numeric>
#include <utility>

#include "base/date.hpp"
#include "base/decimal.hpp"
#include "daybook/columns/level_choice.hpp"
#include "daybook/natural_ranks.hpp"

namespace pear::daybook {
namespace {

/// "12", "-0.5", "3.10": a number in the form that a program would write, not an article number.
bool is_plain_number(std::string_view text) {
  if (!text.empty() && text.front() == '-') text.remove_prefix(1);
  if (text.empty() || text.front() < '0' || text.front() > '9') return false;
  const bool leading_zero = text.size() > 1 && text[0] == '0' && text[1] != '.';
  return !leading_zero && Decimal::parse(text).has_value();
}

bool is_day(std::string_view text) {
  const auto moment = parse_iso_moment(text);
  return moment && moment->second_of_day == Moment::kNoTime;
}

template <class Test>
bool all(const TextArray& texts, Test test) {
  for (std::size_t i = 0; i < texts.size(); ++i) {
    if (!test(texts[i])) return false;
  }
  return !texts.empty();
}

/// Replaces each code by the value of its text; kEmptyCode by `empty`.
template <class T>
std::vector<T> by_code(const std::vector<std::uint32_t>& codes, const std::vector<T>& values, T empty) {
  std::vector<T> result(codes.size());
  for (std::size_t i = 0; i < result.size(); ++i)
    result[i] = codes[i] == kEmptyCode ? empty : values[codes[i]];
  return result;
}

TextValues in_natural_order(TextValues text) {
  const auto positions = natural_positions(text.dictionary);
  const auto ranks = inverse(positions);
  for (std::uint32_t& code : text.codes) {
    if (code != kEmptyCode) code = ranks[code];
  }
  text.dictionary = text.dictionary.picked(positions);
  return text;
}

/// The result of reducing line values to one for each member of a level.
template <class T>
struct Reduced {
  std::vector<T> values;        ///< by member: the latest
  std::uint64_t differing = 0;  ///< members with two values; counting ends when there are too many
};

/// `next(member, line)` for each line of the daybook, in order.
template <class T>
class Reducer {
 public:
  Reducer(const std::vector<T>& values, std::size_t members, const LevelChoice& choice)
      : values_(values), most_(choice.most_differing(members)) {
    reduced_.values.resize(members);
    seen_.resize(members, kUnseen);
  }
  /// False once it is clear that the column belongs to another level.
  bool see(std::uint32_t member, std::uint32_t line) {
    std::uint8_t& seen = seen_[member];
    if (seen != kUnseen && seen != kDiffers && values_[line] != reduced_.values[member]) {
      seen = kDiffers;
      if (++reduced_.differing > most_) return false;
    }
    if (seen == kUnseen) seen = kSame;
    reduced_.values[member] = values_[line];
    return true;
  }
  Reduced<T> take() { return std::move(reduced_); }

 private:
  static constexpr std::uint8_t kUnseen = 0, kSame = 1, kDiffers = 2;
  const std::vector<T>& values_;
  std::uint64_t most_;
  std::vector<std::uint8_t> seen_;
  Reduced<T> reduced_;
};

template <class T>
Reduced<T> reduce_by_runs(const std::vector<T>& values, const std::vector<std::uint32_t>& ends,
                          const LevelChoice& choice) {
  Reducer<T> reducer(values, ends.size() - 1, choice);
  for (std::uint32_t member = 0; member + 1 < ends.size(); ++member) {
    for (std::uint32_t line = ends[member]; line < ends[member + 1]; ++line) {
      if (!reducer.see(member, line)) return reducer.take();
    }
  }
  return reducer.take();
}

/// Visits the lines of one product in order of their dates, so the latest comes last.
template <class T>
Reduced<T> reduce_by_product(const std::vector<T>& values, const DaybookParts& parts,
                             const LevelChoice& choice, bool forced) {
  Reducer<T> reducer(values, parts.products, choice);
  if (!forced) {
    for (std::uint32_t line = 0; line < values.size(); ++line) {
      if (!reducer.see(parts.line_products[line], line)) break;
    }
    return reducer.take();
  }
  const auto& days = std::get<DateValues>(parts.columns.front().values).days;
  std::vector<std::uint32_t> orders(days.size());
  std::iota(orders.begin(), orders.end(), 0U);
  std::stable_sort(orders.begin(), orders.end(),
                   [&](std::uint32_t a, std::uint32_t b) { return days[a] < days[b]; });
  for (const std::uint32_t order : orders) {
    for (std::uint32_t line = parts.line_offsets[order]; line < parts.line_offsets[order + 1]; ++line)
      reducer.see(parts.line_products[line], line);
  }
  return reducer.take();
}

template <class T>
Reduced<T> reduce(const std::vector<T>& values, Level level, const DaybookParts& parts,
                  const LevelChoice& choice, bool forced) {
  switch (level) {
    case Level::order:
      return reduce_by_runs(values, parts.line_offsets, choice);
    case Level::customer: {
      std::vector<std::uint32_t> line_runs;  // a customer's lines are one run, as its orders are
      line_runs.reserve(parts.order_offsets.size());
      for (const std::uint32_t order : parts.order_offsets) line_runs.push_back(parts.line_offsets[order]);
      return reduce_by_runs(values, line_runs, choice);
    }
    case Level::product:
      return reduce_by_product(values, parts, choice, forced);
    case Level::line:
      break;
  }
  return {values, 0};
}

}  // namespace

ColumnType inferred_type(const TextArray& texts) {
  if (all(texts, is_plain_number)) return ColumnType::decimal;
  return all(texts, is_day) ? ColumnType::date : ColumnType::text;
}

std::vector<std::int64_t> numbers_of(const TextArray& texts) {
  std::vector<std::int64_t> units(texts.size());
  for (std::size_t i = 0; i < units.size(); ++i) units[i] = Decimal::parse(texts[i])->units();
  return units;
}

std::vector<std::int32_t> days_of(const TextArray& texts) {
  std::vector<std::int32_t> days(texts.size());
  for (std::size_t i = 0; i < days.size(); ++i) days[i] = parse_iso_moment(texts[i])->date.days;
  return days;
}

ColumnValues with_inferred_type(TextValues text) {
  switch (inferred_type(text.dictionary)) {
    case ColumnType::decimal:
      return DecimalValues{by_code(text.codes, numbers_of(text.dictionary), kEmptyUnits)};
    case ColumnType::date:
      return DateValues{by_code(text.codes, days_of(text.dictionary), kEmptyDays)};
    default:
      return in_natural_order(std::move(text));
  }
}

Column at_its_level(CandidateColumn candidate, const DaybookParts& parts, BuiltDaybook& built) {
  Column& column = candidate.column;
  LevelChoice choice(column.name, candidate.forced);
  std::visit(
      [&](auto& values) {
        auto& array = array_of(values);
        for (const Level level : candidate.levels) {
          auto reduced = reduce(array, level, parts, choice, candidate.forced);
          if (!choice.accepts(level, reduced.values.size(), reduced.differing)) continue;
          array = std::move(reduced.values);
          array.shrink_to_fit();
          column.level = level;
          return;
        }
      },
      column.values);
  choice.record(column.level, built);
  return std::move(column);
}

}  // namespace pear::daybook
