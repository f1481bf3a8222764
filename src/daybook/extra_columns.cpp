#include "daybook/extra_columns.hpp"

#include <limits>
#include <utility>

#include "base/date.hpp"
#include "base/decimal.hpp"
#include "daybook/natural_ranks.hpp"

namespace pear {
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

constexpr std::uint32_t kUnseen = std::numeric_limits<std::uint32_t>::max();

/// Reduces line values to one for each member of a level; `next_line(member)` walks the lines.
/// False where a member has two values.
template <class T>
bool reduce_by_runs(const std::vector<T>& values, const std::vector<std::uint32_t>& ends,
                    std::vector<T>& reduced) {
  reduced.resize(ends.size() - 1);
  for (std::size_t member = 0; member + 1 < ends.size(); ++member) {
    reduced[member] = values[ends[member]];
    for (std::uint32_t line = ends[member] + 1; line < ends[member + 1]; ++line) {
      if (values[line] != reduced[member]) return false;
    }
  }
  return true;
}

template <class T>
bool reduce_by_product(const std::vector<T>& values, const DaybookParts& parts, std::vector<T>& reduced) {
  std::vector<std::uint32_t> first_line(parts.products, kUnseen);
  reduced.resize(parts.products);
  for (std::uint32_t line = 0; line < values.size(); ++line) {
    const std::uint32_t product = parts.line_products[line];
    if (first_line[product] == kUnseen) {
      first_line[product] = line;
      reduced[product] = values[line];
    } else if (values[line] != reduced[product]) {
      return false;
    }
  }
  return true;
}

template <class T>
bool reduce(const std::vector<T>& values, Level level, const DaybookParts& parts, std::vector<T>& reduced) {
  switch (level) {
    case Level::line:
      return false;
    case Level::order:
      return reduce_by_runs(values, parts.line_offsets, reduced);
    case Level::customer: {
      std::vector<std::uint32_t> line_runs;  // a customer's lines are one run, as its orders are
      line_runs.reserve(parts.order_offsets.size());
      for (const std::uint32_t order : parts.order_offsets) line_runs.push_back(parts.line_offsets[order]);
      return reduce_by_runs(values, line_runs, reduced);
    }
    case Level::product:
      return reduce_by_product(values, parts, reduced);
  }
  return false;
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

Column at_its_level(CandidateColumn candidate, const DaybookParts& parts) {
  Column& column = candidate.column;
  std::visit(
      [&](auto& values) {
        auto& array = array_of(values);
        std::remove_reference_t<decltype(array)> reduced;
        for (const Level level : candidate.levels) {
          if (!reduce(array, level, parts, reduced)) continue;
          reduced.shrink_to_fit();
          array = std::move(reduced);
          column.level = level;
          return;
        }
      },
      column.values);
  return std::move(column);
}

}  // namespace pear
