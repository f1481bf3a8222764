// Spreadsheets of several writers. The files in spreadsheets/ contain the same cells: office.* was written by
// an office suite, the others by a library, cells.xlsx with shared texts and stream.xlsx with texts in their
// cells.
#include <algorithm>

#include <absl/strings/str_replace.h>
#include <fmt/format.h>
#include <gtest/gtest.h>
#include <rapidcheck/gtest.h>

#include "base/text.hpp"
#include "files/whole_file.hpp"
#include "sources/first_rows.hpp"
#include "sources/spreadsheet/cell_values.hpp"
#include "sources/table_reader.hpp"
#include "support/temporary_folder.hpp"

namespace pear::test {
namespace {

std::string path_of(const std::string& name) { return std::string(PEAR_SPREADSHEETS) + "/" + name; }

sources::TableAddress sheet_of(const std::string& path, const std::string& sheet,
                               std::uint64_t header_line = 0) {
  sources::TableAddress address;
  address.file = path;
  address.sheet = sheet;
  address.header_line = header_line;
  return address;
}

/// Header and rows, each with its number; a typed value has a star. The fault, if there is one.
std::string read(const sources::TableAddress& address) {
  auto reader = sources::TableReader::open(address);
  if (!reader) return reader.error().message;
  std::string text = join(reader->header(), "|") + "\n";
  const auto outcome = reader->for_each_part(
      [](sources::CsvRows rows) { return rows; },
      [&](const sources::CsvRows& rows, std::uint64_t first_line) {
        for (std::size_t row = 0; row < rows.size(); ++row) {
          text += fmt::format("{}:", first_line + rows.lines[row]);
          for (std::size_t column = 0; column < rows.columns; ++column)
            text += fmt::format("{}{}|", rows.field(row, column), rows.is_typed(row, column) ? "*" : "");
          text += "\n";
        }
        for (const sources::MalformedRow& row : rows.malformed)
          text += fmt::format("{}: {}: {}\n", first_line + row.line, row.reason, row.text);
      });
  return outcome ? text : outcome.error().message;
}

class EveryWriter : public testing::TestWithParam<const char*> {};

TEST_P(EveryWriter, CellsAreReadAsTheyHoldThem) {
  const std::string path = path_of(GetParam());
  // An office suite writes truth values of .ods as numbers with a format, and spaces as elements.
  const bool is_ods = path.ends_with(".ods");
  const std::string yes = is_ods ? "1*" : "TRUE", no = is_ods ? "0*" : "FALSE";
  EXPECT_EQ(read(sheet_of(path, "Sales & more")),
            "Order|Placed|At|Customer|Item|Pieces|Price|Paid|Discount|Gift\n"
            "2:A-1|2024-02-29*|09:30:00*|1001*|Wool <red> & blue|3*|1.1*|3.3*|0.1*|" +
                yes +
                "|\n"
                "3:A-1|2024-02-29*|09:30:00*|1001*|two\nlines|12*|0.3*|3.6*|0.125*|" +
                no +
                "|\n"
                "5:A-2|2024-03-01 23:59:59*||4006381333931*|a  b|-1*|0.001*|-0.001*|||\n"
                "6:|1999-12-31*|||a comma, a \"quote\"|1*|1234567.25*|1234567.25*|0*|" +
                yes + "|\n");
  EXPECT_EQ(read(sheet_of(path, "1")), "|Report of the week\n");
  EXPECT_EQ(read(sheet_of(path, "3")), "\n");  // an empty sheet has no header
  EXPECT_EQ(read(sheet_of(path, "2", 3)).substr(0, 40), "A-1|2024-02-29|09:30:00|1001|two\nlines|1");
  const auto tables = sources::tables_of_file(path);
  ASSERT_TRUE(tables);
  EXPECT_EQ(tables->size(), 3U);
  EXPECT_EQ((*tables)[1].sheet, "Sales & more");
  const auto rows = sources::first_rows(sheet_of(path, "2"), 3);
  ASSERT_TRUE(rows);
  ASSERT_EQ(rows->size(), 3U);
  EXPECT_EQ((*rows)[2].number, 3U);
  EXPECT_EQ((*rows)[2].cells.size(), 10U);
}

TEST_P(EveryWriter, SheetsMustBeChosenAndExist) {
  const std::string path = path_of(GetParam());
  const auto fault = [&](const std::string& sheet, std::uint64_t line = 0) {
    std::string text = read(sheet_of(path, sheet, line));
    return absl::StrReplaceAll(text, {{path, "BOOK"}});
  };
  EXPECT_EQ(
      fault(""),
      "BOOK has 3 sheets: \"Cover\", \"Sales & more\", \"Empty\". Choose one with sheet = \"Cover\", or "
      "BOOK?sheet=NAME on the command line.");
  EXPECT_EQ(fault("Salse & more"),
            "BOOK has no sheet \"Salse & more\". Its sheets are: \"Cover\", \"Sales & more\", "
            "\"Empty\". Did you mean \"Sales & more\"?");
  EXPECT_EQ(fault("2", 4),
            "BOOK, sheet Sales & more has no cells in row 4, where header_line = 4 says the header is.");
}

/// A damaged file is an error or, where the damage is in what is not read, the same table: never a crash.
RC_GTEST_PROP(Spreadsheets, DamagedFilesAreErrors, ()) {
  const std::string name =
      *rc::gen::element<std::string>("office.ods", "office.xlsx", "cells.xlsx", "stream.xlsx");
  std::string bytes = *files::read_whole_file(path_of(name));
  const auto at = *rc::gen::inRange<std::size_t>(4, bytes.size());
  if (*rc::gen::arbitrary<bool>()) {
    bytes.resize(at);
  } else {
    bytes[at] = static_cast<char>(bytes[at] ^ *rc::gen::inRange(1, 255));
  }
  const TemporaryFolder folder;
  folder.write(name, bytes);
  const std::string damaged = read(sheet_of(folder / name, "2"));
  const std::string whole = read(sheet_of(path_of(name), "2"));
  RC_ASSERT(damaged == whole || damaged.find(name) != std::string::npos);
}

INSTANTIATE_TEST_SUITE_P(Spreadsheets, EveryWriter,
                         testing::Values("office.ods", "office.xlsx", "cells.xlsx", "stream.xlsx"));

TEST(Spreadsheets, OtherFilesAreRefusedByWhatTheyAre) {
  const TemporaryFolder folder;
  const auto fault = [&](const std::string& name, const std::string& bytes) {
    folder.write(name, bytes);
    return absl::StrReplaceAll(read(sheet_of(folder / name, "")), {{folder / name, "FILE"}});
  };
  EXPECT_EQ(fault("a.pdf", "%PDF-1.7 and more"),
            "FILE is a PDF document, not a text file with a table. Export the table as .csv or .xlsx.");
  EXPECT_EQ(fault("a.xls", "\xD0\xCF\x11\xE0\xA1\xB1\x1A\xE1"),
            "FILE is an old workbook (.xls) or one with a password, not a text file with a table. Save it as "
            ".xlsx or "
            ".csv, without a password.");
  EXPECT_EQ(fault("a.png", "\x89PNG\r\n\x1A\n"),
            "FILE is an image (PNG), not a text file with a table. Export the table as .csv or .xlsx.");
  // An archive that contains nothing.
  EXPECT_EQ(fault("a.zip", std::string("PK\x05\x06", 4) + std::string(18, '\0')),
            "FILE is an empty zip archive, not a text file with a table. Get the file again.");
  folder.write("t.csv", "a,b\n1,2\n");
  EXPECT_EQ(absl::StrReplaceAll(read(sheet_of(folder / "t.csv", "Sales")), {{folder / "t.csv", "FILE"}}),
            "FILE is not a spreadsheet; remove sheet = \"Sales\".");
}

TEST(CellValues, NumbersHaveTheFifteenDigitsOfSpreadsheets) {
  const std::pair<const char*, const char*> numbers[] = {{"12", "12"},
                                                         {"0.30000000000000004", "0.3"},
                                                         {"1E-3", "0.001"},
                                                         {"1.5E+3", "1500"},
                                                         {"59.970000000000006", "59.97"},
                                                         {"-0", "-0"},
                                                         {"4006381333931", "4006381333931"},
                                                         {"1E+20", "100000000000000000000"},
                                                         {"1.0000000000000001E-7", "0.0000001"},
                                                         {"#N/A", "#N/A"}};
  for (const auto& [cell, text] : numbers) EXPECT_EQ(sources::number_text(cell), text);
}

TEST(CellValues, FormatsAreDatesTimesOrNumbers) {
  using sources::CellFormat;
  const std::pair<const char*, CellFormat> codes[] = {{"dd/mm/yyyy", CellFormat::date},
                                                      {"[$-409]d-mmm-yy;@", CellFormat::date},
                                                      {"mmm yyyy", CellFormat::date},
                                                      {"mmmm", CellFormat::date},
                                                      {"mm:ss", CellFormat::time},
                                                      {"[Blue]0", CellFormat::number},
                                                      {"0\\d", CellFormat::number},
                                                      {"0_d", CellFormat::number},
                                                      {"0;d", CellFormat::number},
                                                      {"yyyy-mm-dd hh:mm", CellFormat::date},
                                                      {"hh:mm:ss", CellFormat::time},
                                                      {"[h]:mm", CellFormat::time},
                                                      {"#,##0.00 [$EUR]", CellFormat::number},
                                                      {"General", CellFormat::number},
                                                      {"0.0%", CellFormat::number},
                                                      {"0 \"days\"", CellFormat::number},
                                                      {"#,##0.00_);[Red](#,##0.00)", CellFormat::number}};
  for (const auto& [code, format] : codes) EXPECT_EQ(sources::format_of_code(code), format) << code;
  // ECMA-376, part 1, 18.8.30: the formats with numbers of their own, those of East Asia among them.
  const auto is_one_of = [](unsigned number, std::initializer_list<std::pair<unsigned, unsigned>> ranges) {
    return std::any_of(ranges.begin(), ranges.end(),
                       [&](const auto& range) { return number >= range.first && number <= range.second; });
  };
  for (unsigned number = 0; number < 70; ++number) {
    const bool is_time = is_one_of(number, {{18, 21}, {32, 35}, {45, 47}, {55, 56}});
    const bool is_date = is_one_of(number, {{14, 17}, {22, 22}, {27, 31}, {36, 36}, {50, 54}, {57, 58}});
    EXPECT_EQ(sources::format_of_builtin(number), is_time   ? CellFormat::time
                                                  : is_date ? CellFormat::date
                                                            : CellFormat::number)
        << number;
  }
}

/// Every day since 1900-03-01 has the number of days since 1899-12-30; before that, spreadsheets count a day
/// too many.
RC_GTEST_PROP(CellValues, SerialNumbersAreDays, ()) {
  const auto serial = *rc::gen::inRange<std::int32_t>(61, 200'000);
  const auto second = *rc::gen::inRange<std::int32_t>(0, 86'400);
  const Date date{serial - 25'569};
  const std::string text = fmt::format("{:.10f}", serial + second / 86'400.0);
  const std::string time = fmt::format(" {:02}:{:02}:{:02}", second / 3600, second / 60 % 60, second % 60);
  RC_ASSERT(sources::serial_text(text, sources::CellFormat::date, false) ==
            to_text(date) + (second == 0 ? "" : time));
  RC_ASSERT(sources::serial_text(std::to_string(serial), sources::CellFormat::date, true) ==
            to_text(Date{serial - 24'107}));
}

TEST(CellValues, SerialNumbersAtTheirLimits) {
  EXPECT_EQ(sources::serial_text("1", sources::CellFormat::date, false), "1900-01-01");
  EXPECT_EQ(sources::serial_text("59", sources::CellFormat::date, false), "1900-02-28");
  EXPECT_EQ(sources::serial_text("61", sources::CellFormat::date, false), "1900-03-01");
  EXPECT_EQ(sources::serial_text("0.395833333333333", sources::CellFormat::time, false), "09:30:00");
  EXPECT_EQ(sources::serial_text("-1", sources::CellFormat::date, false), "-1");
  EXPECT_EQ(sources::serial_text("99999999", sources::CellFormat::date, false), "99999999");
}

}  // namespace
}  // namespace pear::test
