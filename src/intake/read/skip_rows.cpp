#include "intake/read/skip_rows.hpp"

#include <algorithm>
#include <fnmatch.h>
#include <string_view>
#include <utility>
#include <vector>

#include <fmt/format.h>

#include "base/dictionary.hpp"
#include "expression/expression.hpp"

namespace pear::intake {
namespace {

bool fits_any(const std::string& text, const std::vector<std::string>& patterns) {
  return std::any_of(patterns.begin(), patterns.end(),
                     [&](const std::string& pattern) { return fits_pattern(text, pattern); });
}

/// Drops the rows whose flag is not set; returns their number.
std::uint64_t keep_rows(sources::CsvRows& rows, const std::vector<bool>& kept) {
  const auto dropped = static_cast<std::uint64_t>(std::count(kept.begin(), kept.end(), false));
  if (dropped == 0) return 0;
  sources::CsvRows result;
  result.columns = rows.columns;
  result.is_ascii = rows.is_ascii;
  for (std::size_t row = 0; row < rows.size(); ++row) {
    if (!kept[row]) continue;
    result.lines.push_back(rows.lines[row]);
    for (std::size_t column = 0; column < rows.columns; ++column) {
      result.bytes += rows.field(row, column);
      result.ends.push_back(static_cast<std::uint32_t>(result.bytes.size()));
      if (!rows.typed.empty()) result.typed.push_back(rows.is_typed(row, column) ? 1 : 0);
    }
  }
  result.malformed = std::move(rows.malformed);
  rows = std::move(result);
  return dropped;
}

expression::RowView view_of(const std::vector<daybook::ColumnValues>& texts, const TableColumns& plan,
                            std::size_t rows) {
  expression::RowView view;
  view.rows = rows;
  for (std::size_t i = 0; i < texts.size(); ++i)
    view.columns.push_back({plan.columns[i].name, &texts[i], nullptr});
  return view;
}

/// By row, whether the condition is not true. A value that it cannot convert is no reason to skip a row.
std::vector<bool> without_condition(const sources::CsvRows& rows, const TableColumns& plan) {
  std::vector<bool> kept(rows.size(), true);
  std::vector<daybook::ColumnValues> texts(plan.columns.size(), daybook::TextValues{});
  const auto condition = *expression::Expression::compile_condition(plan.skip_if, view_of(texts, plan, 0));
  for (const std::size_t column : condition.columns()) {
    auto& values = std::get<daybook::TextValues>(texts[column]);
    Dictionary dictionary;
    for (std::size_t row = 0; row < rows.size(); ++row) {
      const std::string_view value = rows.field(row, plan.columns[column].position);
      values.codes.push_back(value.empty() ? daybook::kEmptyCode : dictionary.code_of(HashedText(value)));
    }
    values.dictionary = dictionary.take();
  }
  const auto truths = expression::truths(condition, view_of(texts, plan, rows.size()));
  for (std::size_t row = 0; row < rows.size(); ++row) kept[row] = truths[row] != expression::Truth::is_true;
  return kept;
}

}  // namespace

bool fits_pattern(const std::string& text, const std::string& pattern) {
  return fnmatch(pattern.c_str(), text.c_str(), 0) == 0;
}

OrError<void> check_skip_condition(const TableColumns& plan) {
  if (plan.skip_if.empty()) return {};
  const std::vector<daybook::ColumnValues> no_texts(plan.columns.size(), daybook::TextValues{});
  const auto condition = expression::Expression::compile_condition(plan.skip_if, view_of(no_texts, plan, 0));
  if (condition) return {};
  return data_error(fmt::format("[{}] skip_if: {}", to_text(plan.table), condition.error().message));
}

std::uint64_t skip_rows(sources::CsvRows& rows, const std::vector<std::string>& patterns) {
  if (patterns.empty()) return 0;
  const std::uint64_t malformed = std::erase_if(
      rows.malformed, [&](const sources::MalformedRow& row) { return fits_any(row.first, patterns); });
  std::vector<bool> kept(rows.size());
  for (std::size_t row = 0; row < rows.size(); ++row)
    kept[row] = !fits_any(std::string(rows.first_value(row)), patterns);
  return malformed + keep_rows(rows, kept);
}

std::uint64_t skip_rows_if(sources::CsvRows& rows, const TableColumns& plan) {
  if (plan.skip_if.empty() || rows.size() == 0) return 0;
  return keep_rows(rows, without_condition(rows, plan));
}

}  // namespace pear::intake
