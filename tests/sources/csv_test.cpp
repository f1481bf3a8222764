#include <gtest/gtest.h>
#include <rapidcheck/gtest.h>

#include "sources/csv_reader.hpp"
#include "support/random_shop.hpp"

namespace pear::test {
namespace {

/// Text in memory as a source; gives a few bytes at a time.
class GivenBytes final : public sources::ByteSource {
 public:
  explicit GivenBytes(std::string text) : text_(std::move(text)) {}
  OrError<std::size_t> read(std::span<char> into) override {
    const std::size_t count = std::min({into.size(), text_.size() - at_, std::size_t{1000}});
    text_.copy(into.data(), count, at_);
    at_ += count;
    return count;
  }
  [[nodiscard]] const std::string& name() const override { return name_; }
  [[nodiscard]] std::uint64_t bytes_taken() const override { return at_; }
  [[nodiscard]] std::optional<std::uint64_t> bytes_in_all() const override { return std::nullopt; }
  [[nodiscard]] std::string content_hash() const override { return ""; }

 private:
  std::string name_ = "text";
  std::string text_;
  std::size_t at_ = 0;
};

struct ReadRow {
  std::uint64_t line;
  std::vector<std::string> fields;
  bool operator==(const ReadRow&) const = default;
};
std::ostream& operator<<(std::ostream& out, const ReadRow& row) {
  out << row.line;
  for (const std::string& field : row.fields) out << " [" << field << "]";
  return out;
}

struct ReadTable {
  std::vector<std::string> header;
  std::vector<ReadRow> rows;
  std::vector<ReadRow> malformed;  // reason and text
  std::string fault;
};

ReadTable read(const std::string& text, std::size_t part_bytes = sources::CsvReader::kPartBytes) {
  ReadTable table;
  auto reader = sources::CsvReader::open(std::make_unique<GivenBytes>(text), std::nullopt, 0, part_bytes);
  if (!reader) {
    table.fault = reader.error().message;
    return table;
  }
  table.header = reader->header();
  const auto outcome =
      reader->for_each_part([](sources::CsvRows rows) { return rows; },
                            [&](sources::CsvRows rows, std::uint64_t first_line) {
                              for (std::size_t i = 0; i < rows.size(); ++i) {
                                ReadRow row{first_line + rows.lines[i], {}};
                                for (std::size_t c = 0; c < rows.columns; ++c)
                                  row.fields.emplace_back(rows.field(i, c));
                                table.rows.push_back(row);
                              }
                              for (const sources::MalformedRow& row : rows.malformed)
                                table.malformed.push_back({first_line + row.line, {row.reason, row.text}});
                            });
  if (!outcome) table.fault = outcome.error().message;
  return table;
}

/// Any table, written with any delimiter and line end, is read back whole with true line numbers, however it
/// is cut into parts: line feeds, quotes and delimiters within fields included.
RC_GTEST_PROP(Csv, AnyTableReadsBack, ()) {
  const char delimiter = *rc::gen::element(',', ';', '\t', '|');
  const std::string line_end = *rc::gen::element<std::string>("\n", "\r\n", "\r");
  const auto columns = *rc::gen::inRange<std::size_t>(2, 5);
  const std::string letters = line_end == "\r" ? "ab ,;\t|\"7\xc3\xa9" : "ab ,;\t|\"\n\n7\xc3\xa9";
  const auto field = rc::gen::container<std::string>(rc::gen::elementOf(letters));
  std::string text = *rc::gen::element<std::string>("", "\xEF\xBB\xBF");
  std::vector<ReadRow> expected;
  std::uint64_t line = 1;
  const int rows = pick(1, 25);
  for (int i = 0; i < rows; ++i) {
    ReadRow row{line, {}};
    for (std::size_t c = 0; c < columns; ++c) {
      row.fields.push_back(i == 0 ? "name" + std::to_string(c) : *field);
      line +=
          static_cast<std::uint64_t>(std::count(row.fields.back().begin(), row.fields.back().end(), '\n'));
    }
    ++line;
    text += sources::csv_record({row.fields.begin(), row.fields.end()}, delimiter) + line_end;
    const bool is_blank =
        std::all_of(row.fields.begin(), row.fields.end(), [](const auto& each) { return each.empty(); });
    if (i > 0 && !is_blank) expected.push_back(row);
    if (pick(0, 5) == 0) {
      text += line_end;  // a blank line
      ++line;
    }
  }
  if (*rc::gen::arbitrary<bool>()) text.resize(text.find_last_not_of("\r\n") + 1);
  RC_PRE(sources::detect_format(text).delimiter == delimiter);
  for (const std::size_t part : {std::size_t{7}, std::size_t{64}, sources::CsvReader::kPartBytes}) {
    const ReadTable table = read(text, part);
    RC_ASSERT(table.fault.empty());
    RC_ASSERT(table.rows == expected);
    RC_ASSERT(table.malformed.empty());
  }
}

TEST(Csv, RejectsRowsOfAnotherWidthWithTheirLine) {
  const ReadTable table = read("a,b\n1,2\n1,2,3\n\n\"x\ny\"\n3,4\n");
  EXPECT_EQ(table.rows, (std::vector<ReadRow>{{2, {"1", "2"}}, {7, {"3", "4"}}}));
  EXPECT_EQ(table.malformed, (std::vector<ReadRow>{{3, {"has 3 fields where the header has 2", "1,2,3"}},
                                                   {5, {"has 1 field where the header has 2", "\"x\ny\""}}}));
}

TEST(Csv, ReadsAFileThatEndsInMidRowOrWithinQuotes) {
  EXPECT_EQ(read("a,b\n1,2\n3").malformed,
            (std::vector<ReadRow>{{3, {"has 1 field where the header has 2", "3"}}}));
  const ReadTable open_quote = read("a,b\n1,2\n3,\"4\n5,6\n");
  EXPECT_EQ(open_quote.rows, (std::vector<ReadRow>{{2, {"1", "2"}}}));
  EXPECT_EQ(open_quote.malformed,
            (std::vector<ReadRow>{{3, {"has a quoted field that never ends", "3,\"4\n5,6\n\""}}}));
}

TEST(Csv, RejectsAnEndlessFieldWithItsLine) {
  std::string text = "a,b\n1,2\n3,\"";
  while (text.size() < (std::size_t{18} << 20U)) text += "some text without an end\n";
  EXPECT_EQ(read(text + "\",5\n", std::size_t{1} << 20U).fault,
            "text, line 3: a field in quotes is longer than 16 MiB. Probably its closing quote is missing.");
}

TEST(Csv, AHeaderMayHaveLineBreaks) {
  const ReadTable table = read("\"a\nb\",c\r\n1,2\r\n");
  EXPECT_EQ(table.header, (std::vector<std::string>{"a\nb", "c"}));
  EXPECT_EQ(table.rows, (std::vector<ReadRow>{{3, {"1", "2"}}}));
  EXPECT_EQ(read("\"a\nb\",c").header, (std::vector<std::string>{"a\nb", "c"}));
  EXPECT_EQ(read("\n\na,b\n1,2\n").rows, (std::vector<ReadRow>{{4, {"1", "2"}}}));
}

TEST(Csv, KeepsSpacesNulBytesAndSingleQuotes) {
  using namespace std::string_literals;
  EXPECT_EQ(read("a,b\n x ,\ty\n"s).rows, (std::vector<ReadRow>{{2, {" x ", "\ty"}}}));
  EXPECT_EQ(read("a,b\nx\0y,1\n"s).rows, (std::vector<ReadRow>{{2, {"x\0y"s, "1"}}}));
  EXPECT_EQ(read("a,b\n5\" pipe,1\n6,2\n"s).rows,
            (std::vector<ReadRow>{{2, {"5\" pipe", "1"}}, {3, {"6", "2"}}}));
}

TEST(Csv, ReadsOldLineEndsAndFilesWithOnlyAHeader) {
  EXPECT_EQ(read("a,b\r1,2\r3,4\r").rows, (std::vector<ReadRow>{{2, {"1", "2"}}, {3, {"3", "4"}}}));
  EXPECT_EQ(read("a,b").header, (std::vector<std::string>{"a", "b"}));
  EXPECT_EQ(read("only\n1\n2\n").rows.size(), 2U);
}

/// Longer than what is read for the header, so that parts end at carriage returns.
TEST(Csv, ReadsLongFilesWithOldLineEnds) {
  std::string text = "number,text\r";
  for (int i = 0; i < 20'000; ++i) text += std::to_string(i) + ",word\r";
  const ReadTable table = read(text, 1'000);
  ASSERT_EQ(table.rows.size(), 20'000U);
  for (std::size_t i = 0; i < table.rows.size(); ++i)
    ASSERT_EQ(table.rows[i], (ReadRow{i + 2, {std::to_string(i), "word"}}));
  EXPECT_TRUE(table.malformed.empty() && table.fault.empty());
}

TEST(Csv, RejectsFilesThatAreNoTables) {
  EXPECT_TRUE(read("").header.empty() && read("").fault.empty());
  EXPECT_TRUE(read("\n\n").header.empty());
  EXPECT_EQ(read("\"a" + std::string(70'000, 'x')).fault,
            "the header of text does not end within its first 65,536 bytes.");
}

TEST(Csv, DetectsTheDelimiterByAgreementOfRows) {
  EXPECT_EQ(sources::detect_format("a;b\n1,5;2\n3,5;4\n").delimiter, ';');
  EXPECT_EQ(sources::detect_format("a\tb,c\n1\t2\n").delimiter, '\t');
  EXPECT_EQ(sources::detect_format("a|b\n\"x|y\"|2\n").delimiter, '|');
  EXPECT_EQ(sources::detect_format("a\n1\n").delimiter, ',');
  EXPECT_EQ(sources::detect_format("Sales of May\n\na;b;c\n1,5;2;3\n1,5;2;3\n").delimiter, ';');
  EXPECT_EQ(sources::detect_format("Sales, May 2024\na;b;c\n1;2;3\n4;5;6\n").delimiter, ';');
  EXPECT_EQ(sources::detect_format("a;b\n1,5;x;y\n1,5;2\n1,5;3\n").delimiter, ';');  // one row is malformed
}

}  // namespace
}  // namespace pear::test
