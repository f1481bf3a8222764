#include "expression/rows/column_of.hpp"

#include <algorithm>
#include <numeric>
#include <optional>
#include <utility>

#include <absl/container/flat_hash_map.h>
#include <tbb/blocked_range.h>
#include <tbb/parallel_for.h>

#include "base/date.hpp"
#include "base/text_hash.hpp"
#include "daybook/natural_ranks.hpp"
#include "expression/rows/distinct_values.hpp"

namespace pear::expression {
namespace {

daybook::ColumnValues empty_column(ValueType type, std::size_t rows) {
  switch (type) {
    case ValueType::date:
      return daybook::DateValues{std::vector<std::int32_t>(rows, daybook::kEmptyDays)};
    case ValueType::time:
      return daybook::TimeValues{std::vector<std::int32_t>(rows, Moment::kNoTime)};
    case ValueType::null:
    case ValueType::text:
    case ValueType::truth:
      return daybook::TextValues{std::vector<std::uint32_t>(rows, daybook::kEmptyCode), {}};
    case ValueType::number:
      break;
  }
  return daybook::DecimalValues{std::vector<std::int64_t>(rows, daybook::kEmptyUnits)};
}

/// Blocks of numbers, dates and times in parallel; the first fault is that of the first row.
OrError<daybook::ColumnValues> column_of_numbers(const Expression& expression, const RowView& rows) {
  daybook::ColumnValues column = empty_column(expression.type(), rows.rows);
  const std::size_t blocks = (rows.rows + Expression::kBlock - 1) / Expression::kBlock;
  std::vector<std::uint8_t> faults(blocks);
  tbb::parallel_for(std::size_t{0}, blocks, [&](std::size_t block) {
    const std::size_t begin = block * Expression::kBlock;
    const Values values = expression.evaluate(rows, begin, std::min(rows.rows, begin + Expression::kBlock));
    std::visit(
        [&](auto& into) {
          auto& array = daybook::array_of(into);
          using T = typename std::remove_reference_t<decltype(array)>::value_type;
          for (std::size_t i = 0; i < values.size(); ++i) {
            if (values.states[i] == ValueState::filled) array[begin + i] = static_cast<T>(values.numbers[i]);
            if (values.states[i] == ValueState::fault) faults[block] = 1;
          }
        },
        column);
  });
  const auto first = std::find(faults.begin(), faults.end(), 1);
  if (first == faults.end()) return column;
  const std::size_t begin = static_cast<std::size_t>(first - faults.begin()) * Expression::kBlock;
  auto checked = expression.evaluate_checked(rows, begin, std::min(rows.rows, begin + Expression::kBlock));
  return tl::unexpected(std::move(checked).error());
}

/// Codes 0 and 1 as the texts "false" and "true"; only those that occur are in the dictionary.
daybook::ColumnValues truth_column(std::vector<std::uint32_t> codes) {
  daybook::TextValues column{std::move(codes), {}};
  const bool has_false = std::find(column.codes.begin(), column.codes.end(), 0U) != column.codes.end();
  if (has_false) column.dictionary.push_back("false");
  if (std::find(column.codes.begin(), column.codes.end(), 1U) == column.codes.end()) return column;
  column.dictionary.push_back("true");
  if (!has_false) std::replace(column.codes.begin(), column.codes.end(), 1U, 0U);
  return column;
}

OrError<daybook::ColumnValues> column_of_truths(const Expression& expression, const RowView& rows) {
  std::vector<std::uint32_t> codes(rows.rows, daybook::kEmptyCode);
  const std::size_t blocks = (rows.rows + Expression::kBlock - 1) / Expression::kBlock;
  std::vector<std::uint8_t> faults(blocks);
  tbb::parallel_for(std::size_t{0}, blocks, [&](std::size_t block) {
    const std::size_t begin = block * Expression::kBlock;
    const Values values = expression.evaluate(rows, begin, std::min(rows.rows, begin + Expression::kBlock));
    for (std::size_t i = 0; i < values.size(); ++i) {
      if (values.states[i] == ValueState::filled) codes[begin + i] = values.numbers[i] != 0 ? 1 : 0;
      if (values.states[i] == ValueState::fault) faults[block] = 1;
    }
  });
  const auto first = std::find(faults.begin(), faults.end(), 1);
  if (first == faults.end()) return truth_column(std::move(codes));
  const std::size_t begin = static_cast<std::size_t>(first - faults.begin()) * Expression::kBlock;
  auto checked = expression.evaluate_checked(rows, begin, std::min(rows.rows, begin + Expression::kBlock));
  return tl::unexpected(std::move(checked).error());
}

/// Texts of some rows: codes by first appearance.
struct TextPart {
  std::vector<std::uint32_t> codes;  ///< by row
  TextArray texts;

  OrError<void> evaluate(const Expression& expression, const RowView& rows, std::size_t begin,
                         std::size_t end) {
    absl::flat_hash_map<std::string, std::uint32_t, TextHash, std::equal_to<>> known;
    codes.assign(end - begin, daybook::kEmptyCode);
    for (std::size_t from = begin; from < end; from += Expression::kBlock) {
      PEAR_ASSIGN(const Values values,
                  expression.evaluate_checked(rows, from, std::min(end, from + Expression::kBlock)));
      for (std::size_t i = 0; i < values.size(); ++i) {
        if (values.states[i] != ValueState::filled) continue;
        auto found = known.find(values.texts[i]);
        if (found == known.end()) {
          found = known.emplace(std::string(values.texts[i]), static_cast<std::uint32_t>(texts.size())).first;
          texts.push_back(values.texts[i]);
        }
        codes[from - begin + i] = found->second;
      }
    }
    return {};
  }
};

/// Parts of the rows on all threads: codes by first appearance, then by natural order. The first fault is
/// that of the first row.
OrError<daybook::ColumnValues> column_of_texts(const Expression& expression, const RowView& rows) {
  constexpr std::size_t kPart = 64 * Expression::kBlock;
  std::vector<TextPart> parts((rows.rows + kPart - 1) / kPart);
  std::vector<OrError<void>> faults(parts.size());
  tbb::parallel_for(std::size_t{0}, parts.size(), [&](std::size_t i) {
    faults[i] = parts[i].evaluate(expression, rows, i * kPart, std::min(rows.rows, (i + 1) * kPart));
  });
  for (const OrError<void>& fault : faults) PEAR_TRY(fault);
  absl::flat_hash_map<std::string_view, std::uint32_t> known;
  TextArray texts;
  std::vector<std::vector<std::uint32_t>> codes(parts.size());  // by part, then by its own code
  for (std::size_t i = 0; i < parts.size(); ++i)
    for (std::size_t text = 0; text < parts[i].texts.size(); ++text) {
      const auto [found, is_new] =
          known.emplace(parts[i].texts[text], static_cast<std::uint32_t>(texts.size()));
      if (is_new) texts.push_back(found->first);
      codes[i].push_back(found->second);
    }
  const std::vector<std::uint32_t> positions = daybook::natural_positions(texts);
  const std::vector<std::uint32_t> ranks = daybook::inverse(positions);
  daybook::TextValues column{std::vector<std::uint32_t>(rows.rows), texts.picked(positions)};
  tbb::parallel_for(std::size_t{0}, parts.size(), [&](std::size_t i) {
    std::uint32_t* to = column.codes.data() + i * kPart;
    for (const std::uint32_t code : parts[i].codes)
      *to++ = code == daybook::kEmptyCode ? code : ranks[codes[i][code]];
  });
  return column;
}

/// The members of a column as codes: positions among the distinct values, of which the last is the empty one.
struct CodedColumn {
  std::vector<std::uint32_t> codes;  ///< by member
  daybook::ColumnValues values;      ///< by code
};

/// Nothing if so many values are distinct that evaluating each once would not be faster.
template <class Values, class T>
std::optional<CodedColumn> coded_numbers(const Values& values, T empty, std::size_t rows) {
  const std::vector<T>& array = daybook::array_of(values);
  auto coded = code_values<T>(array, empty, rows / 16);
  if (!coded || coded->distinct.size() + 1 >= rows) return std::nullopt;
  coded->distinct.push_back(empty);
  Values each;
  daybook::array_of(each) = std::move(coded->distinct);
  return CodedColumn{std::move(coded->codes), std::move(each)};
}

std::optional<CodedColumn> coded_texts(const daybook::TextValues& texts, std::size_t rows) {
  const auto distinct = static_cast<std::uint32_t>(texts.dictionary.size());
  if (distinct + 1 >= rows) return std::nullopt;
  daybook::TextValues each{std::vector<std::uint32_t>(distinct + 1), texts.dictionary};
  std::iota(each.codes.begin(), each.codes.end(), 0U);
  each.codes.back() = daybook::kEmptyCode;
  CodedColumn coded{texts.codes, std::move(each)};
  for (std::uint32_t& code : coded.codes) code = std::min(code, distinct);  // kEmptyCode is the largest
  return coded;
}

/// The column that the expression depends on as codes, if it is the only one and has far fewer values than
/// there are rows.
std::optional<CodedColumn> only_column(const Expression& expression, const RowView& rows) {
  if (expression.columns().size() != 1) return std::nullopt;
  const daybook::ColumnValues& values = *rows.columns[*expression.columns().begin()].values;
  if (const auto* texts = std::get_if<daybook::TextValues>(&values)) return coded_texts(*texts, rows.rows);
  if (const auto* decimals = std::get_if<daybook::DecimalValues>(&values))
    return coded_numbers(*decimals, daybook::kEmptyUnits, rows.rows);
  if (const auto* dates = std::get_if<daybook::DateValues>(&values))
    return coded_numbers(*dates, daybook::kEmptyDays, rows.rows);
  return std::nullopt;
}

/// to(row, from(row)) for all rows, on all threads.
template <class From, class To>
void for_rows(std::size_t rows, const From& from, const To& to) {
  tbb::parallel_for(tbb::blocked_range<std::size_t>(0, rows, 65'536), [&](const auto& part) {
    for (std::size_t row = part.begin(); row != part.end(); ++row) to(row, from(row));
  });
}

/// Evaluated once for each value of the only column.
OrError<daybook::ColumnValues> column_by_value(const Expression& expression, const RowView& rows,
                                               CodedColumn coded) {
  const std::size_t position = *expression.columns().begin();
  const ViewColumn& column = rows.columns[position];
  RowView small = rows;
  small.rows = std::visit([](const auto& values) { return daybook::array_of(values).size(); }, coded.values);
  small.columns[position] = {column.name, &coded.values, nullptr};
  PEAR_ASSIGN(daybook::ColumnValues by_value, column_of(expression, small));
  if (auto* texts = std::get_if<daybook::TextValues>(&by_value);
      texts != nullptr && column.members == nullptr) {
    // Codes become codes in place: new memory takes longer to get than to fill.
    for_rows(
        rows.rows, [&](std::size_t row) { return texts->codes[coded.codes[row]]; },
        [&](std::size_t row, std::uint32_t code) { coded.codes[row] = code; });
    texts->codes = std::move(coded.codes);
    return by_value;
  }
  const auto code = [&](std::size_t row) {
    const std::uint32_t member = column.member(row);
    return member == daybook::kNoMember ? small.rows - 1 : coded.codes[member];
  };
  std::visit(
      [&](auto& values) {
        auto& array = daybook::array_of(values);
        std::remove_reference_t<decltype(array)> spread(rows.rows);
        for_rows(rows.rows, code, [&](std::size_t row, std::size_t at) { spread[row] = array[at]; });
        array = std::move(spread);
      },
      by_value);
  return by_value;
}

}  // namespace

OrError<daybook::ColumnValues> column_of(const Expression& expression, const RowView& rows) {
  if (std::optional<CodedColumn> coded = only_column(expression, rows)) {
    auto column = column_by_value(expression, rows, std::move(*coded));
    if (column) return column;  // otherwise the fault may be that of a value that no row has
  }
  if (expression.type() == ValueType::truth) return column_of_truths(expression, rows);
  const bool as_text = expression.type() == ValueType::text || expression.type() == ValueType::null;
  return as_text ? column_of_texts(expression, rows) : column_of_numbers(expression, rows);
}

OrError<MemberColumn> column_of(const Expression& expression, const LineView& lines) {
  MemberColumn column{LineView::level_for(expression.grain()), expression.grain(), expression.type(), nullptr,
                      nullptr};
  if (expression.is_column()) {
    const ViewColumn& own = lines.schema(column.level).columns[*expression.columns().begin()];
    const auto* flags = own.values == nullptr ? nullptr : std::get_if<daybook::FlagValues>(own.values);
    if (own.members == nullptr && flags != nullptr) {
      column.values = std::make_shared<const daybook::ColumnValues>(
          truth_column({flags->flags.begin(), flags->flags.end()}));
      return column;
    }
    if (own.members == nullptr) {
      column.values = {std::shared_ptr<const daybook::ColumnValues>(), own.values};
      return column;
    }
  }
  PEAR_ASSIGN(daybook::ColumnValues values,
              column_of(expression, lines.rows_of(column.level, expression.columns())));
  column.made = std::make_shared<daybook::ColumnValues>(std::move(values));
  column.values = column.made;
  return column;
}

std::vector<std::uint32_t> by_code_point(const TextArray& texts) {
  std::vector<std::uint32_t> positions(texts.size());
  std::iota(positions.begin(), positions.end(), 0U);
  std::sort(positions.begin(), positions.end(),
            [&](std::uint32_t a, std::uint32_t b) { return texts[a] < texts[b]; });
  return positions;
}

std::span<const std::int64_t> as_integers(const daybook::ColumnValues& values,
                                          std::vector<std::int64_t>& made) {
  if (const auto* decimals = std::get_if<daybook::DecimalValues>(&values)) return decimals->units;
  if (const auto* text = std::get_if<daybook::TextValues>(&values)) {
    const std::vector<std::uint32_t> ranks = daybook::inverse(by_code_point(text->dictionary));
    for (const std::uint32_t code : text->codes)
      made.push_back(code == daybook::kEmptyCode ? daybook::kEmptyUnits : ranks[code]);
  } else if (const auto* date = std::get_if<daybook::DateValues>(&values)) {
    for (const std::int32_t day : date->days)
      made.push_back(day == daybook::kEmptyDays ? daybook::kEmptyUnits : day);
  } else if (const auto* time = std::get_if<daybook::TimeValues>(&values)) {
    for (const std::int32_t second : time->seconds)
      made.push_back(second == Moment::kNoTime ? daybook::kEmptyUnits : second);
  } else {
    for (const std::uint8_t flag : std::get<daybook::FlagValues>(values).flags) made.push_back(flag);
  }
  return made;
}

}  // namespace pear::expression
