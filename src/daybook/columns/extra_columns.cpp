#include "daybook/columns/extra_columns.hpp"

#include <algorithm>
#include <numeric>
#include <utility>

#include "base/date.hpp"
#include "base/decimal.hpp"
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
template <class T, class Convert>
std::vector<T> converted(const TextValues& text, T empty, Convert convert) {
  std::vector<T> by_code(text.dictionary.size());
  for (std::size_t i = 0; i < by_code.size(); ++i) by_code[i] = convert(text.dictionary[i]);
  std::vector<T> values(text.codes.size());
  for (std::size_t i = 0; i < values.size(); ++i)
    values[i] = text.codes[i] == kEmptyCode ? empty : by_code[text.codes[i]];
  return values;
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
  std::vector<T> values;      ///< by member: the latest
  std::size_t differing = 0;  ///< members with two values; counting ends when there are too many
  bool complete = true;
};

/// At most this many members may differ; with more, the column belongs to another level.
std::size_t slips(std::size_t members) { return members / 100; }

/// `next(member, line)` for each line of the daybook, in order.
template <class T>
class Reducer {
 public:
  Reducer(const std::vector<T>& values, std::size_t members, bool to_the_end)
      : values_(values), most_(to_the_end ? members : slips(members)) {
    reduced_.values.resize(members);
    seen_.resize(members, kUnseen);
  }
  /// False once it is clear that the column belongs to another level.
  bool see(std::uint32_t member, std::uint32_t line) {
    std::uint8_t& seen = seen_[member];
    if (seen != kUnseen && seen != kDiffers && values_[line] != reduced_.values[member]) {
      seen = kDiffers;
      if (++reduced_.differing > most_) {
        reduced_.complete = false;
        return false;
      }
    }
    if (seen == kUnseen) seen = kSame;
    reduced_.values[member] = values_[line];
    return true;
  }
  Reduced<T> take() { return std::move(reduced_); }

 private:
  static constexpr std::uint8_t kUnseen = 0, kSame = 1, kDiffers = 2;
  const std::vector<T>& values_;
  std::size_t most_;
  std::vector<std::uint8_t> seen_;
  Reduced<T> reduced_;
};

template <class T>
Reduced<T> reduce_by_runs(const std::vector<T>& values, const std::vector<std::uint32_t>& ends,
                          bool to_the_end) {
  Reducer<T> reducer(values, ends.size() - 1, to_the_end);
  for (std::uint32_t member = 0; member + 1 < ends.size(); ++member) {
    for (std::uint32_t line = ends[member]; line < ends[member + 1]; ++line) {
      if (!reducer.see(member, line)) return reducer.take();
    }
  }
  return reducer.take();
}

/// Visits the lines of one product in order of their dates, so the latest comes last.
template <class T>
Reduced<T> reduce_by_product(const std::vector<T>& values, const DaybookParts& parts, bool to_the_end) {
  Reducer<T> reducer(values, parts.products, to_the_end);
  if (!to_the_end) {
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
Reduced<T> reduce(const std::vector<T>& values, Level level, const DaybookParts& parts, bool to_the_end) {
  switch (level) {
    case Level::order:
      return reduce_by_runs(values, parts.line_offsets, to_the_end);
    case Level::customer: {
      std::vector<std::uint32_t> line_runs;  // a customer's lines are one run, as its orders are
      line_runs.reserve(parts.order_offsets.size());
      for (const std::uint32_t order : parts.order_offsets) line_runs.push_back(parts.line_offsets[order]);
      return reduce_by_runs(values, line_runs, to_the_end);
    }
    case Level::product:
      return reduce_by_product(values, parts, to_the_end);
    case Level::line:
      break;
  }
  return {values, 0, true};
}

}  // namespace

ColumnValues with_inferred_type(TextValues text) {
  if (all(text.dictionary, is_plain_number)) {
    return DecimalValues{
        converted(text, kEmptyUnits, [](std::string_view value) { return Decimal::parse(value)->units(); })};
  }
  if (all(text.dictionary, is_day)) {
    return DateValues{converted(text, kEmptyDays,
                                [](std::string_view value) { return parse_iso_moment(value)->date.days; })};
  }
  return in_natural_order(std::move(text));
}

Column at_its_level(CandidateColumn candidate, const DaybookParts& parts, BuiltDaybook& built) {
  Column& column = candidate.column;
  std::vector<NearMiss> near_misses;
  std::visit(
      [&](auto& values) {
        auto& array = array_of(values);
        for (const Level level : candidate.levels) {
          auto reduced = reduce(array, level, parts, candidate.forced);
          if (!reduced.complete) continue;
          const std::size_t members = reduced.values.size();
          if (reduced.differing > 0 && !candidate.forced) {
            near_misses.push_back(
                {column.name, level, Level::line,
                 1 - static_cast<double>(reduced.differing) / static_cast<double>(members)});
            continue;
          }
          if (reduced.differing > 0) built.settled.push_back({column.name, level, reduced.differing});
          array = std::move(reduced.values);
          array.shrink_to_fit();
          column.level = level;
          return;
        }
      },
      column.values);
  for (NearMiss& miss : near_misses) {
    miss.kept_at = column.level;
    built.near_misses.push_back(std::move(miss));
  }
  return std::move(column);
}

}  // namespace pear::daybook
