#include "intake/read/table_collector.hpp"

#include <algorithm>
#include <utility>

#include "base/date.hpp"

namespace pear::intake {
namespace {

template <class T>
void append(std::vector<T>& to, const std::vector<T>& from, std::size_t expected) {
  if (to.capacity() < expected) to.reserve(expected);
  to.insert(to.end(), from.begin(), from.end());
}

void append_codes(std::vector<std::uint32_t>& to, Dictionary& dictionary, const BatchTexts& batch,
                  std::size_t expected) {
  if (to.capacity() < expected) to.reserve(expected);
  std::vector<std::uint32_t> codes;
  codes.reserve(batch.texts.size());
  constexpr std::size_t kAhead = 8;
  for (std::size_t i = 0; i < batch.texts.size(); ++i) {
    if (i + kAhead < batch.texts.size()) dictionary.prefetch(batch.texts[i + kAhead]);
    codes.push_back(dictionary.code_of(batch.texts[i]));
  }
  for (const std::uint32_t code : batch.codes)
    to.push_back(code == daybook::kEmptyCode ? daybook::kEmptyCode : codes[code]);
}

}  // namespace

TableCollector::TableCollector(const TableColumns& plan) : kind_(plan.table), match_(plan) {
  for (const PlannedColumn& planned : plan.columns) {
    columns_.emplace_back();
    columns_.back().planned = planned;
  }
}

OrError<void> TableCollector::begin_source(const TableColumns& plan, const std::string& source) {
  PEAR_ASSIGN(const std::vector<std::size_t> places, match_.places(plan, source));
  for (std::size_t i = 0; i < columns_.size(); ++i) columns_[i].place = places[i];
  return {};
}

OrError<void> TableCollector::add(const RowBatch& batch, std::uint64_t first_line,
                                  std::size_t expected_rows) {
  const std::size_t before = rows();
  for (Column& column : columns_) {
    const BatchColumn& from = batch.columns[column.place];
    switch (column.planned.kind) {
      case ColumnKind::text:
        append_codes(column.codes, column.dictionary, from.texts, expected_rows);
        break;
      case ColumnKind::number:
        append(column.units, from.units, expected_rows);
        break;
      case ColumnKind::moment:
        add_moments(column, from, before, expected_rows);
        break;
    }
  }
  append(amounts_, batch.amounts, expected_rows);
  if (table_.lines.capacity() < expected_rows) table_.lines.reserve(expected_rows);
  for (const std::uint64_t line : batch.lines)
    table_.lines.push_back(static_cast<std::uint32_t>(first_line + line));
  return {};
}

void TableCollector::add_moments(Column& column, const BatchColumn& batch, std::size_t before,
                                 std::size_t expected_rows) {
  append(column.days, batch.days, expected_rows);
  column.any_time |= batch.any_time;
  if (!column.any_time) return;
  column.seconds.resize(before, Moment::kNoTime);  // the rows before the first that has a time
  append(column.seconds, batch.seconds, expected_rows);
}

OrError<void> TableCollector::end_source(SourceAccount account) {
  table_.sources.push_back(std::move(account));
  table_.source_ends.push_back(static_cast<std::uint32_t>(rows()));
  return {};
}

RawTable TableCollector::take() {
  table_.kind = kind_;
  for (Column& column : columns_) {
    const PlannedColumn& planned = column.planned;
    const bool is_amount = kind_ == TableKind::lines && planned.name == daybook::role::kAmount;
    if (is_amount) continue;  // included in the sums below
    daybook::ColumnValues values;
    if (planned.kind == ColumnKind::text) {
      values = daybook::TextValues{std::move(column.codes), column.dictionary.take()};
    } else if (planned.kind == ColumnKind::number) {
      values = daybook::DecimalValues{std::move(column.units)};
    } else {
      values = daybook::DateValues{std::move(column.days)};
    }
    table_.columns.push_back({planned.name, planned.header, std::move(values)});
    if (column.any_time)
      table_.columns.push_back({std::string(daybook::role::kOrderTime), planned.header,
                                daybook::TimeValues{std::move(column.seconds)}});
  }
  if (kind_ == TableKind::lines) {  // after the price, from which it is computed
    const auto price =
        std::find_if(table_.columns.begin(), table_.columns.end(),
                     [](const RawColumn& column) { return column.name == daybook::role::kUnitPrice; });
    table_.columns.insert(
        price == table_.columns.end() ? price : price + 1,
        {std::string(daybook::role::kAmount), "amount", daybook::DecimalValues{std::move(amounts_)}});
  }
  return std::move(table_);
}

}  // namespace pear::intake
