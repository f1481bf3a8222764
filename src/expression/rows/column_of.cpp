#include "expression/rows/column_of.hpp"

#include <algorithm>
#include <numeric>
#include <optional>
#include <utility>

#include <absl/container/flat_hash_map.h>
#include <tbb/parallel_for.h>

#include "base/date.hpp"
#include "base/text_hash.hpp"
#include "daybook/natural_ranks.hpp"

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

/// Texts: codes by first appearance, then by natural order.
OrError<daybook::ColumnValues> column_of_texts(const Expression& expression, const RowView& rows) {
  daybook::TextValues column{std::vector<std::uint32_t>(rows.rows, daybook::kEmptyCode), {}};
  absl::flat_hash_map<std::string, std::uint32_t, TextHash, std::equal_to<>> codes;
  TextArray texts;
  for (std::size_t begin = 0; begin < rows.rows; begin += Expression::kBlock) {
    const std::size_t end = std::min(rows.rows, begin + Expression::kBlock);
    PEAR_ASSIGN(const Values values, expression.evaluate_checked(rows, begin, end));
    for (std::size_t i = 0; i < values.size(); ++i) {
      if (values.states[i] != ValueState::filled) continue;
      const std::string_view text = values.texts[i];
      auto found = codes.find(text);
      if (found == codes.end()) {
        found = codes.emplace(std::string(text), static_cast<std::uint32_t>(texts.size())).first;
        texts.push_back(text);
      }
      column.codes[begin + i] = found->second;
    }
  }
  const std::vector<std::uint32_t> positions = daybook::natural_positions(texts);
  const std::vector<std::uint32_t> ranks = daybook::inverse(positions);
  for (std::uint32_t& code : column.codes) code = code == daybook::kEmptyCode ? code : ranks[code];
  column.dictionary = texts.picked(positions);
  return column;
}

/// The text column that the expression depends on, if it is the only one and has fewer texts than there are
/// rows.
const daybook::TextValues* only_text(const Expression& expression, const RowView& rows) {
  if (expression.columns().size() != 1) return nullptr;
  const auto* text = std::get_if<daybook::TextValues>(rows.columns[*expression.columns().begin()].values);
  return text != nullptr && text->dictionary.size() + 1 < rows.rows ? text : nullptr;
}

/// Worked out once for each text, and once for none.
OrError<daybook::ColumnValues> column_by_text(const Expression& expression, const RowView& rows,
                                              const daybook::TextValues& text) {
  const std::size_t position = *expression.columns().begin();
  const ViewColumn& column = rows.columns[position];
  const auto texts = static_cast<std::uint32_t>(text.dictionary.size());
  daybook::TextValues each{std::vector<std::uint32_t>(texts + 1), text.dictionary};
  std::iota(each.codes.begin(), each.codes.end(), 0U);
  each.codes.back() = daybook::kEmptyCode;
  const daybook::ColumnValues each_text = std::move(each);
  RowView small = rows;
  small.rows = texts + 1;
  small.columns[position] = {column.name, &each_text, nullptr};
  PEAR_ASSIGN(daybook::ColumnValues by_text, column_of(expression, small));
  std::visit(
      [&](auto& values) {
        auto& array = daybook::array_of(values);
        std::remove_reference_t<decltype(array)> spread(rows.rows);
        for (std::size_t row = 0; row < rows.rows; ++row) {
          const std::uint32_t member = column.member(row);
          const std::uint32_t code = member == daybook::kNoMember ? daybook::kEmptyCode : text.codes[member];
          spread[row] = array[code == daybook::kEmptyCode ? texts : code];
        }
        array = std::move(spread);
      },
      by_text);
  return by_text;
}

}  // namespace

OrError<daybook::ColumnValues> column_of(const Expression& expression, const RowView& rows) {
  if (const daybook::TextValues* text = only_text(expression, rows))
    return column_by_text(expression, rows, *text);
  if (expression.type() == ValueType::truth) return column_of_truths(expression, rows);
  const bool as_text = expression.type() == ValueType::text || expression.type() == ValueType::null;
  return as_text ? column_of_texts(expression, rows) : column_of_numbers(expression, rows);
}

OrError<MemberColumn> column_of(const Expression& expression, const LineView& lines) {
  MemberColumn column{LineView::level_for(expression.grain()), expression.grain(), expression.type(),
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
  PEAR_ASSIGN(daybook::ColumnValues values, column_of(expression, lines.rows_of(column.level)));
  column.values = std::make_shared<const daybook::ColumnValues>(std::move(values));
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
