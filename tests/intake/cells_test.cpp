// Cells of a source, one by one: what each becomes, which rows are rejected and why, and what the sums are.
#include <map>
#include <optional>
#include <set>

#include <fmt/format.h>
#include <gtest/gtest.h>
#include <rapidcheck/gtest.h>

#include "intake/read/row_batch.hpp"
#include "intake/read/skip_rows.hpp"
#include "support/random_shop.hpp"

namespace pear::test {
namespace {

using intake::ColumnKind;

const std::vector<std::string> kNames = {"order_id", "order_date", "quantity", "unit_price",
                                         "amount",   "region",     "since"};
const std::vector<ColumnKind> kKinds = {ColumnKind::text,   ColumnKind::moment, ColumnKind::number,
                                        ColumnKind::number, ColumnKind::number, ColumnKind::text,
                                        ColumnKind::moment};

std::string random_cell(ColumnKind kind) {
  const std::string numbers[] = {"1",  "2.5", "-3",          "",  "x", "1.00005", "1,5",
                                 " 4", "N/A", "99999999999", "+7"};
  const std::string days[] = {"2024-02-29",  "2023-02-29", "2024-01-05 10:30", "soon", "",
                              " 2024-03-01", "N/A"};
  const std::string texts[] = {"A1",      " A1",    "",    "N/A", "a1", "\xC3\xA9t\xC3\xA9",
                               "bad\xFF", "North ", "Nrth"};
  if (kind == ColumnKind::number) return numbers[pick(0, 10)];
  return kind == ColumnKind::moment ? days[pick(0, 6)] : texts[pick(0, 8)];
}

/// The columns in any order in the source, some of which need a value, with any cleaning.
intake::TableColumns random_plan(std::vector<std::size_t>& positions) {
  intake::TableColumns plan;
  plan.table = pick(0, 3) == 0 ? intake::TableKind::orders : intake::TableKind::lines;
  for (std::size_t i = 0; i < kNames.size(); ++i) positions.push_back(i);
  for (std::size_t i = positions.size(); i > 1; --i)
    std::swap(positions[i - 1], positions[static_cast<std::size_t>(pick(0, static_cast<int>(i) - 1))]);
  for (std::size_t i = 0; i < kNames.size(); ++i) {
    intake::PlannedColumn column;
    column.position = positions[i];
    column.name = kNames[i];
    column.header = "The " + kNames[i];
    column.kind = kKinds[i];
    column.needs_value = i < 2 || (i < 4 && pick(0, 1) == 1);
    column.cleaning.trim = pick(0, 1) == 1;
    if (pick(0, 1) == 1) column.cleaning.empty_as = {"N/A", "soon"};
    if (pick(0, 2) == 0) column.cleaning.replace = {{"Nrth", "North"}, {"x", "5"}, {"A1", ""}};
    plan.columns.push_back(column);
  }
  return plan;
}

/// What a row becomes, by the definition.
struct ReadRow {
  std::vector<std::string> cells;                              // cleaned
  std::vector<std::string> changes;                            // column, step, before, after
  std::string fault;                                           // column, value as it was written, reason
  std::optional<std::int64_t> amount;                          // units
  std::map<std::string, std::optional<std::int64_t>> numbers;  // units
};

std::string cleaned(const std::string& written, const intake::PlannedColumn& column,
                    std::vector<std::string>& changes) {
  std::string value = written;
  const auto change = [&](const std::string& to, const char* step) {
    changes.push_back(fmt::format("{} {} [{}] [{}]", column.name, step, value, to));
    value = to;
  };
  if (column.cleaning.trim) {
    std::string inner = value;
    while (inner.starts_with(' ')) inner.erase(0, 1);
    while (inner.ends_with(' ')) inner.pop_back();
    if (inner != value) change(inner, "trim");
  }
  if (!value.empty() && column.cleaning.empty_as.contains(value)) change("", "empty_as");
  if (const auto found = column.cleaning.replace.find(value); found != column.cleaning.replace.end())
    change(found->second, "replace");
  return value;
}

std::string reason_of(const std::string& value, const intake::PlannedColumn& column, ReadRow& row) {
  if (column.kind == ColumnKind::text) {
    if (value.empty() && column.needs_value) return "is empty";
    return value.find('\xFF') != std::string::npos ? "is not UTF-8 text" : "";
  }
  if (value.empty() && !column.needs_value) return "";
  if (column.kind == ColumnKind::moment) {
    const auto moment = parse_iso_moment(value);
    return moment ? "" : std::string(describe(moment.error()));
  }
  const auto number = Decimal::parse(value);
  if (number) row.numbers[column.name] = number->units();
  return number ? "" : std::string(describe(number.error()));
}

ReadRow read_by_definition(const std::vector<std::string>& fields, const intake::TableColumns& plan) {
  ReadRow row;
  for (const intake::PlannedColumn& column : plan.columns) {
    row.cells.push_back(cleaned(fields[column.position], column, row.changes));
    const std::string reason = reason_of(row.cells.back(), column, row);
    if (!reason.empty() && row.fault.empty())
      row.fault = fmt::format("{} [{}] {}", column.header, fields[column.position], reason);
  }
  const auto number = [&](const char* name) {
    return row.numbers.contains(name) ? row.numbers[name] : std::nullopt;
  };
  if (plan.table != intake::TableKind::lines) return row;
  row.amount = number("amount");
  if (!row.amount && number("quantity") && number("unit_price")) {
    const Int128 product = Int128{*number("quantity")} * *number("unit_price");
    const auto rounded =
        static_cast<Int128>((product < 0 ? -product : product) + Decimal::kScale / 2) / Decimal::kScale;
    if (rounded <= INT64_MAX)
      row.amount = static_cast<std::int64_t>(product < 0 ? -rounded : rounded);
    else if (row.fault.empty())
      row.fault =
          fmt::format("The quantity [{}] times unit_price is too large", fields[plan.columns[2].position]);
  }
  return row;
}

RC_GTEST_PROP(Cells, BecomeWhatThePlanSays, ()) {
  std::vector<std::size_t> positions;
  const intake::TableColumns plan = random_plan(positions);
  std::vector<std::vector<std::string>> table;
  sources::CsvParser parser({','}, kNames.size());
  for (int i = pick(1, 12); i > 0; --i) {
    std::vector<std::string> fields(kNames.size());
    for (std::size_t c = 0; c < kNames.size(); ++c) fields[positions[c]] = random_cell(kKinds[c]);
    const std::vector<std::string_view> views(fields.begin(), fields.end());
    const bool is_blank =
        std::all_of(fields.begin(), fields.end(), [](const std::string& field) { return field.empty(); });
    if (is_blank) continue;
    table.push_back(fields);
    parser.feed(sources::csv_record(views, ',') + "\n");
  }
  parser.finish();
  const intake::RowBatch batch = intake::read_rows(parser.take(), plan, ',');

  std::vector<std::string> rejected, changed;
  std::vector<std::uint64_t> lines;
  std::vector<ReadRow> kept;
  Decimal read, accepted, refused;
  std::uint64_t unreadable = 0;
  for (std::size_t line = 0; line < table.size(); ++line) {
    const ReadRow row = read_by_definition(table[line], plan);
    if (plan.table == intake::TableKind::lines) {
      if (!row.amount) ++unreadable;
      const Decimal amount = Decimal::from_units(row.amount.value_or(0));
      read = *checked_add(read, amount);
      Decimal& into = row.fault.empty() ? accepted : refused;
      into = *checked_add(into, amount);
    }
    if (!row.fault.empty()) {
      rejected.push_back(fmt::format("{}: {}", line, row.fault));
      continue;
    }
    for (const std::string& change : row.changes) changed.push_back(fmt::format("{}: {}", line, change));
    lines.push_back(line);
    kept.push_back(row);
  }
  std::vector<std::string> given, given_changes;
  for (const intake::RejectedRow& row : batch.rejected)
    given.push_back(fmt::format("{}: {} [{}] {}", row.line, row.column, row.value, row.reason));
  for (const intake::ChangedCell& cell : batch.changed)
    given_changes.push_back(
        fmt::format("{}: {} {} [{}] [{}]", cell.line, cell.column, cell.step, cell.before, cell.after));
  RC_ASSERT(given == rejected);
  RC_ASSERT(batch.lines == lines);
  RC_ASSERT(batch.rows_read == table.size());
  // The order of columns is theirs; that of steps is not part of the report's meaning.
  std::sort(given_changes.begin(), given_changes.end());
  std::sort(changed.begin(), changed.end());
  RC_ASSERT(given_changes == changed);
  RC_ASSERT(*batch.sums.read.total() == read);
  RC_ASSERT(*batch.sums.kept.total() == accepted);
  RC_ASSERT(*batch.sums.rejected.total() == refused);
  RC_ASSERT(batch.sums.unreadable == unreadable);
  for (std::size_t c = 0; c < kNames.size(); ++c) {
    const intake::BatchColumn& column = batch.columns[c];
    for (std::size_t row = 0; row < kept.size(); ++row) {
      const std::string& cell = kept[row].cells[c];
      if (kKinds[c] == ColumnKind::text) {
        const std::uint32_t code = column.texts.codes[row];
        RC_ASSERT((code == daybook::kEmptyCode) == cell.empty());
        if (!cell.empty()) RC_ASSERT(column.texts.texts[code].text == cell);
      } else if (kKinds[c] == ColumnKind::number) {
        RC_ASSERT(column.units[row] == (cell.empty() ? daybook::kEmptyUnits : Decimal::parse(cell)->units()));
      } else {
        const auto moment = parse_iso_moment(cell);
        RC_ASSERT(column.days[row] == (cell.empty() ? daybook::kEmptyDays : moment->date.days));
        RC_ASSERT(column.seconds[row] == (cell.empty() ? Moment::kNoTime : moment->second_of_day));
      }
    }
  }
}

/// Rows are skipped by their first value, malformed ones too, or by a condition that is true.
TEST(SkipRows, ByPatternAndByCondition) {
  const auto rows_of = [](const std::string& text) {
    sources::CsvParser parser({','}, 2);
    parser.feed(text);
    parser.finish();
    return parser.take();
  };
  const std::string text = "Total,5\na,1\nSubtotal,x,y\n,Total\nb,\nc,2\nTotals\n";
  sources::CsvRows rows = rows_of(text);
  EXPECT_EQ(intake::skip_rows(rows, {"Total*", "?ubtotal"}), 4U);
  EXPECT_EQ(rows.size(), 3U);
  EXPECT_TRUE(rows.malformed.empty());
  EXPECT_EQ(std::string(rows.field(1, 0)) + std::string(rows.field(2, 1)), "b2");
  EXPECT_EQ(rows.lines, (std::vector<std::uint64_t>{1, 4, 5}));
  EXPECT_EQ(intake::skip_rows(rows, {}), 0U);
  intake::TableColumns plan;
  for (std::size_t i = 0; i < 2; ++i) {
    intake::PlannedColumn column;
    column.position = i;
    column.name = i == 0 ? "kind" : "count";
    plan.columns.push_back(column);
  }
  plan.skip_if = "count = '1' OR CAST(count AS NUMERIC) > 1";
  ASSERT_TRUE(intake::check_skip_condition(plan));
  EXPECT_EQ(intake::skip_rows_if(rows, plan), 2U) << "an empty count is unknown";
  EXPECT_EQ(std::string(rows.field(0, 0)), "b");
  sources::CsvRows unreadable = rows_of("a,many\nb,7\n");
  EXPECT_EQ(intake::skip_rows_if(unreadable, plan), 1U) << "what is no number is no reason to skip a row";
  plan.skip_if = "cout = '1'";
  EXPECT_EQ(intake::check_skip_condition(plan).error().message,
            "[lines] skip_if: there is no column \"cout\". Did you mean \"count\"? (column 1)");
}

}  // namespace
}  // namespace pear::test
