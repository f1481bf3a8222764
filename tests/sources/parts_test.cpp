// Parts of tables that are read at once, and the first rows of files.
#include <algorithm>
#include <atomic>

#include <fmt/format.h>
#include <gtest/gtest.h>
#include <rapidcheck/gtest.h>

#include "sources/csv_chunk.hpp"
#include "sources/file_kind.hpp"
#include "sources/first_rows.hpp"
#include "sources/ordered_parts.hpp"
#include "sources/sample.hpp"
#include "support/random_shop.hpp"
#include "support/temporary_folder.hpp"

namespace pear::test {
namespace {

/// Rows that contain one number.
sources::CsvRows rows_of_number(int number) {
  sources::CsvRows rows;
  rows.columns = 1;
  rows.bytes = std::to_string(number);
  rows.ends = {static_cast<std::uint32_t>(rows.bytes.size())};
  rows.lines = {0};
  return rows;
}

/// Parts arrive in order, on any thread that parses them; after the first fault, none does.
RC_GTEST_PROP(OrderedParts, AreCollectedInOrderUpToTheFirstFault, ()) {
  const int parts = pick(0, 40), bad_fetch = pick(0, 60), bad_parse = pick(0, 60);
  int next = 0;
  std::vector<int> collected;
  const auto outcome = sources::for_each_ordered_part(
      [&]() -> OrError<std::optional<int>> {
        if (next == parts) return std::nullopt;
        if (next == bad_fetch) return data_error(fmt::format("fetch {}", next));
        return next++;
      },
      [&](int part) -> OrError<sources::CsvRows> {
        if (part == bad_parse) return data_error(fmt::format("parse {}", part));
        return rows_of_number(part);
      },
      [](const sources::CsvRows& rows) { return std::stoi(std::string(rows.field(0, 0))); },
      [&](int number) { collected.push_back(number); });
  const int first_bad = std::min(bad_fetch, bad_parse);
  RC_ASSERT(outcome.has_value() == (first_bad >= parts));
  if (!outcome)
    RC_ASSERT(outcome.error().message ==
              fmt::format("{} {}", bad_fetch <= bad_parse ? "fetch" : "parse", first_bad));
  RC_ASSERT(collected.size() == static_cast<std::size_t>(std::min(first_bad, parts)));
  for (std::size_t i = 0; i < collected.size(); ++i) RC_ASSERT(collected[i] == static_cast<int>(i));
}

struct SplitText {
  std::vector<sources::PlainRow> rows;  ///< with any value
  std::vector<std::size_t> fields;      ///< of each row that ends, or of the only one
};

/// RFC 4180, one character after another. Rows end at a line feed, a carriage return, or both.
SplitText split_slowly(const std::string& text, char delimiter) {
  SplitText split;
  std::vector<std::string> cells;
  std::string field;
  bool in_quotes = false, is_begun = false;
  std::uint64_t line = 1, row_line = 1;
  const auto end_field = [&] {
    cells.push_back(std::exchange(field, ""));
    is_begun = false;
  };
  const auto end_row = [&](bool is_cut) {
    if (!is_cut || split.fields.empty()) split.fields.push_back(cells.size());
    while (!cells.empty() && cells.back().empty()) cells.pop_back();
    if (!cells.empty()) split.rows.push_back({row_line, cells});
    cells.clear();
  };
  for (std::size_t i = 0; i < text.size(); ++i) {
    const char c = text[i];
    if (in_quotes && c == '"' && i + 1 < text.size() && text[i + 1] == '"') {
      field += text[i++];
    } else if (c == '"' && (in_quotes || (!is_begun && field.empty()))) {
      in_quotes = !in_quotes;
      is_begun = true;
    } else if (in_quotes) {
      field += c;
      line += c == '\n' ? 1U : 0U;
    } else if (c == delimiter) {
      end_field();
      is_begun = false;
    } else if (c == '\n' || c == '\r') {
      if (c == '\r' && i + 1 < text.size() && text[i + 1] == '\n') ++i;
      if (!cells.empty() || !field.empty() || is_begun) {
        end_field();
        end_row(false);
      }
      row_line = ++line;
    } else {
      field += c;
      is_begun = true;
    }
  }
  if (!cells.empty() || !field.empty() || is_begun) {
    end_field();
    end_row(true);
  }
  return split;
}

RC_GTEST_PROP(Rows, OfTextAreThoseOfASlowReader, ()) {
  const char delimiter = *rc::gen::element(',', ';', '\t', '|');
  const std::string line_end = *rc::gen::element<std::string>("\n", "\r\n", "\r");
  std::string text;
  for (int row = 0, rows = pick(0, 12); row < rows; ++row) {
    const int fields = pick(0, 4);
    std::vector<std::string> cells;
    for (int i = 0; i < fields; ++i)
      cells.push_back(
          *rc::gen::element<std::string>("", "a", "12", "two words", "x,y;z|t", "say \"hi\"", "line\nbreak"));
    text += sources::csv_record({cells.begin(), cells.end()}, delimiter);
    if (row + 1 < rows || pick(0, 1) == 1) text += line_end;
  }
  const SplitText expected = split_slowly(text, delimiter);
  const auto most = static_cast<std::size_t>(pick(1, 14));
  const auto rows = sources::split_rows(text, {delimiter}, most);
  RC_ASSERT(rows.size() == std::min(most, expected.rows.size()));
  for (std::size_t i = 0; i < rows.size(); ++i) {
    RC_ASSERT(rows[i].cells == expected.rows[i].cells);
    RC_ASSERT(rows[i].number == expected.rows[i].number);
  }
  auto fields = expected.fields;
  fields.resize(std::min(most, fields.size()));
  RC_ASSERT(sources::count_fields(text, {delimiter}, most) == fields);
}

TEST(Rows, OfFilesAreShownAsTheyAreWithoutKnowingTheHeader) {
  const TemporaryFolder folder;
  const auto rows = [&](const std::string& text, std::size_t most) {
    sources::TableAddress address;
    address.file = folder.write("a.csv", text);
    std::string shown;
    const auto found = sources::first_rows(address, most);
    for (const sources::PlainRow& row : *found) {
      shown += fmt::format("{}:", row.number);
      for (const std::string& cell : row.cells) shown += cell + "|";
    }
    return shown;
  };
  EXPECT_EQ(rows("Report of May\n\na;b;\n1;2;3\n4;5;6\n", 3), "1:Report of May|3:a|b|4:1|2|3|");
  EXPECT_EQ(rows("\xEF\xBB\xBFname,place\nJ\xC3\xB6rn,x", 9), "1:name|place|2:J\xC3\xB6rn|x|");
  EXPECT_EQ(rows("J\xF6rn,x\n", 9), "1:J\xC3\xB6rn|x|");  // Windows-1252
  EXPECT_EQ(rows("", 9), "");
  sources::TableAddress nowhere;
  nowhere.file = folder / "none.csv";
  EXPECT_TRUE(sources::first_rows(nowhere, 3)->empty());
}

TEST(Rows, FirstValuesAndRecordsOfRows) {
  sources::CsvParser parser({';'}, 3);
  parser.feed(";;x\n\"a;b\";;\n;;\n1;2\n");
  const sources::CsvRows rows = parser.take();
  ASSERT_EQ(rows.size(), 2U);  // a row without any value is not one
  EXPECT_EQ(rows.first_value(0), "x");
  EXPECT_EQ(rows.first_value(1), "a;b");
  EXPECT_EQ(rows.record(1, ';'), "\"a;b\";;");
  EXPECT_EQ(rows.record(1, ','), "a;b,,");
  ASSERT_EQ(rows.malformed.size(), 1U);
  EXPECT_EQ(rows.malformed[0].first, "1");
  EXPECT_EQ(rows.malformed[0].kind, "has too few fields");
  EXPECT_EQ(rows.malformed[0].line, 3U);
}

TEST(FileKinds, FollowFromTheFirstBytes) {
  using namespace std::string_literals;
  using sources::FileKind;
  const std::pair<std::string, FileKind> kinds[] = {{"order;date\n", FileKind::text},
                                                    {"PK\x03\x04 and more", FileKind::archive},
                                                    {"PK\x05\x06", FileKind::other},
                                                    {"%PDF-1.7", FileKind::other},
                                                    {"GIF89a", FileKind::other},
                                                    {"II*\0x"s, FileKind::other},
                                                    {"MM\0*x"s, FileKind::other},
                                                    {"BZh91AY&SY", FileKind::other},
                                                    {"SQLite format 3\0"s, FileKind::other},
                                                    {"SQLite formats", FileKind::text},
                                                    {"\x1F\x8B\x08", FileKind::text},  // gzip of text
                                                    {"PK", FileKind::text},
                                                    {"", FileKind::text}};
  for (const auto& [front, kind] : kinds) {
    EXPECT_EQ(sources::kind_of(front), kind) << front;
    const auto check = sources::check_is_text(front, "sales.csv");
    EXPECT_EQ(check.has_value(), kind == FileKind::text) << front;
  }
  EXPECT_EQ(sources::check_is_text("Rar!\x1A", "sales.csv").error().message,
            "sales.csv is a RAR archive, not a text file with a table. Unpack it and name the files in it.");
  const TemporaryFolder folder;
  EXPECT_EQ(sources::front_of_file(folder.write("a", "0123456789abcdefXYZ")), "0123456789abcdef");
  EXPECT_EQ(sources::front_of_file(folder.write("a", "short")), "short");
  EXPECT_EQ(sources::front_of_file(folder.path()), "");
}

TEST(Samples, AreWholeForSmallFiles) {
  const TemporaryFolder folder;
  sources::TableAddress address;
  address.file = folder.write("a.csv", "a,b\n1,2\n");
  const auto sample = sources::open_sample(address);
  ASSERT_TRUE(sample);
  EXPECT_TRUE(sample->is_whole);
  EXPECT_EQ(sample->reader.header(), (std::vector<std::string>{"a", "b"}));
}

TEST(Samples, AddressesOfSheetsAreReadFromWords) {
  const TemporaryFolder folder;
  EXPECT_EQ(sources::file_address("book.xlsx?sheet=May").file, "book.xlsx");
  EXPECT_EQ(sources::file_address("book.xlsx?sheet=May").sheet, "May");
  EXPECT_EQ(sources::file_address("book.xlsx").sheet, "");
  const std::string odd = folder.write("a?sheet=b", "x");
  EXPECT_EQ(sources::file_address(odd).file, odd);  // a path that exists
}

}  // namespace
}  // namespace pear::test
