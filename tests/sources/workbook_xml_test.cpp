// Workbooks as other programs might write them: every form that the standards allow for the same cells.
#include <absl/strings/str_replace.h>
#include <fmt/format.h>
#include <gtest/gtest.h>
#include <rapidcheck/gtest.h>

#include "base/date.hpp"
#include "base/text.hpp"
#include "sources/table_reader.hpp"
#include "support/made_up_workbook.hpp"
#include "support/random_shop.hpp"

namespace pear::test {
namespace {

/// The cells of all rows below the header, with the row's number; a typed value has a star. The fault, if
/// there is one.
std::vector<std::string> rows_in(const std::string& path, const std::string& sheet = "1") {
  sources::TableAddress address;
  address.file = path;
  address.sheet = sheet;
  auto reader = sources::TableReader::open(address);
  const auto fault = [&](const Error& error) {
    return std::vector<std::string>{absl::StrReplaceAll(error.message, {{path, "BOOK"}})};
  };
  if (!reader) return fault(reader.error());
  std::vector<std::string> rows;
  const auto outcome = reader->for_each_part(
      [](sources::CsvRows part) { return part; },
      [&](const sources::CsvRows& part, std::uint64_t first) {
        for (std::size_t row = 0; row < part.size(); ++row) {
          rows.push_back(fmt::format("{}:", first + part.lines[row]));
          for (std::size_t column = 0; column < part.columns; ++column)
            rows.back() +=
                fmt::format("{}{}|", part.field(row, column), part.is_typed(row, column) ? "*" : "");
        }
        for (const sources::MalformedRow& row : part.malformed)
          rows.push_back(fmt::format("{}: {}: {}", first + row.line, row.reason, row.text));
      });
  return outcome ? rows : fault(outcome.error());
}

std::string xml_text(const std::string& text) {
  return absl::StrReplaceAll(text, {{"&", "&amp;"}, {"<", "&lt;"}, {">", "&gt;"}, {"\"", "&quot;"}});
}

/// A cell as an analyst sees it.
struct MadeCell {
  enum Kind : std::uint8_t { empty, text, number, date, truth } kind = empty;
  std::string shown;
  std::int32_t serial = 0;  ///< of a date: days since 1899-12-30

  [[nodiscard]] bool is_typed() const { return kind == number || kind == date; }
};

MadeCell random_cell() {
  MadeCell cell;
  cell.kind = static_cast<MadeCell::Kind>(pick(0, 4));
  switch (cell.kind) {
    case MadeCell::empty:
      break;
    case MadeCell::text:
      cell.shown = *rc::gen::element<std::string>("wool", "a & b", "<b>", "\"q\"", "J\xC3\xB6rn",
                                                  "two  spaces", "1", "x_y");
      break;
    case MadeCell::number:
      cell.shown = fmt::format("{}", pick(-99'999, 99'999));
      if (pick(0, 1) == 1) cell.shown += fmt::format(".{}", pick(0, 999) * 10 + pick(1, 9));
      break;
    case MadeCell::date:
      cell.serial = pick(61, 60'000);
      cell.shown = to_text(Date{cell.serial - 25'569});
      break;
    case MadeCell::truth:
      cell.shown = pick(0, 1) == 1 ? "TRUE" : "FALSE";
      break;
  }
  return cell;
}

using MadeRows = std::vector<std::vector<MadeCell>>;

/// Rows below a header of this many columns.
MadeRows random_rows(std::size_t columns) {
  MadeRows rows(static_cast<std::size_t>(pick(0, 12)));
  for (auto& row : rows)
    for (std::size_t i = 0; i < columns; ++i) row.push_back(random_cell());
  return rows;
}

/// What rows_in() should give; `numbers` are those of the rows in the sheet.
std::vector<std::string> expected_rows(const MadeRows& rows, const std::vector<int>& numbers) {
  std::vector<std::string> expected;
  for (std::size_t row = 0; row < rows.size(); ++row) {
    std::string text = fmt::format("{}:", numbers[row]);
    bool any = false;
    for (const MadeCell& cell : rows[row]) {
      any = any || !cell.shown.empty();
      text += fmt::format("{}{}|", cell.shown, cell.is_typed() ? "*" : "");
    }
    if (any) expected.push_back(text);
  }
  return expected;
}

/// Writes cells in one of the forms that ECMA-376 (part 1, 18.3.1) allows.
class XlsxWriter {
 public:
  explicit XlsxWriter(bool has_places) : has_places_(has_places) {
    xml.prefix = *rc::gen::element<std::string>("", "x:");
  }

  void begin_row(int number) {
    row_ = number;
    column_ = 0;
    xml.rows += has_places_ ? fmt::format("<{}row r=\"{}\">", xml.prefix, number)
                            : fmt::format("<{}row>", xml.prefix);
  }
  void end_row() { xml.rows += fmt::format("</{}row>", xml.prefix); }

  void add(const MadeCell& cell) {
    const auto column = static_cast<char>('A' + column_++);
    if (cell.kind == MadeCell::empty && has_places_ && pick(0, 1) == 1) return;
    const std::string& p = xml.prefix;
    const std::string place = has_places_ ? fmt::format(" r=\"{}{}\"", column, row_) : "";
    const auto written = [&](std::string_view attributes, const std::string& inside) {
      xml.rows += fmt::format("<{0}c{1}{2}>{3}</{0}c>", p, place, attributes, inside);
    };
    const auto value = [&](const std::string& text) { return fmt::format("<{0}v>{1}</{0}v>", p, text); };
    switch (cell.kind) {
      case MadeCell::empty:
        xml.rows += fmt::format("<{}c{}/>", p, place);
        break;
      case MadeCell::text:
        write_text(cell.shown, written, value);
        break;
      case MadeCell::number:
        written(*rc::gen::element<std::string>("", " t=\"n\"", " s=\"0\"", " s=\"3\""), value(cell.shown));
        break;
      case MadeCell::date:
        if (pick(0, 3) == 0) {
          written(" t=\"d\"", value(cell.shown));
        } else {
          written(" s=\"1\"", value(std::to_string(cell.serial)));
        }
        break;
      case MadeCell::truth:
        written(" t=\"b\"", value(cell.shown == "TRUE" ? "1" : "0"));
        break;
    }
  }

  XlsxXml xml;

 private:
  template <class Written, class Value>
  void write_text(const std::string& text, const Written& written, const Value& value) {
    const std::string& p = xml.prefix;
    const std::string escaped = xml_text(text);
    switch (pick(0, 3)) {
      case 0:
        return written(" t=\"str\"", fmt::format("<{0}f>A1</{0}f>", p) + value(escaped));
      case 1:
        return written(" t=\"inlineStr\"", fmt::format("<{0}is><{0}t>{1}</{0}t></{0}is>", p, escaped));
      case 2:
        return written(
            " t=\"inlineStr\"",
            fmt::format("<{0}is><{0}r><{0}t>{1}</{0}t></{0}r><{0}r><{0}rPr/><{0}t>{2}</{0}t></{0}r></{0}is>",
                        p, xml_text(text.substr(0, 1)), xml_text(text.substr(1))));
      default:
        xml.strings +=
            pick(0, 1) == 1
                ? fmt::format("<si><t>{}</t></si>", escaped)
                : fmt::format("<si><r><t xml:space=\"preserve\">{}</t></r><phoneticPr/></si>", escaped);
        return written(" t=\"s\"", value(std::to_string(strings_++)));
    }
  }

  bool has_places_;
  int row_ = 0, column_ = 0, strings_ = 0;
};

RC_GTEST_PROP(WorkbookXml, XlsxCellsReadBackInEveryForm, ()) {
  const TemporaryFolder folder;
  const auto columns = static_cast<std::size_t>(pick(1, 5));
  const MadeRows rows = random_rows(columns);
  const bool has_places = *rc::gen::arbitrary<bool>();
  XlsxWriter writer(has_places);
  int number = has_places ? pick(1, 4) : 1;
  writer.begin_row(number);
  for (std::size_t i = 0; i < columns; ++i) writer.add({MadeCell::text, fmt::format("name{}", i), 0});
  writer.end_row();
  std::vector<int> numbers;
  for (const auto& row : rows) {
    number += has_places ? pick(1, 3) : 1;
    numbers.push_back(number);
    writer.begin_row(number);
    for (const MadeCell& cell : row) writer.add(cell);
    writer.end_row();
  }
  RC_ASSERT(rows_in(write_xlsx(folder, writer.xml)) == expected_rows(rows, numbers));
}

/// A cell in one of the forms that OpenDocument (part 3, 9.1.4 and 19.385) allows.
std::string ods_cell(const MadeCell& cell, int copies) {
  const std::string repeated = copies > 1 ? fmt::format(" table:number-columns-repeated=\"{}\"", copies) : "";
  const std::string name = pick(0, 5) == 0 ? "table:covered-table-cell" : "table:table-cell";
  const auto written = [&](const std::string& attributes, const std::string& inside) {
    return fmt::format("<{0}{1}{2}>{3}</{0}>", name, repeated, attributes, inside);
  };
  switch (cell.kind) {
    case MadeCell::empty:
      return pick(0, 1) == 1 ? written("", "") : fmt::format("<{}{}/>", name, repeated);
    case MadeCell::text:
      if (pick(0, 2) == 0)
        return written(
            fmt::format(" office:value-type=\"string\" office:string-value=\"{}\"", xml_text(cell.shown)),
            "");
      return written(
          " office:value-type=\"string\"",
          absl::StrReplaceAll(
              fmt::format("<office:annotation><text:p>a note</text:p></office:annotation><text:p>{}</text:p>",
                          xml_text(cell.shown)),
              {{"two  ", "two<text:s text:c=\"2\"/>"}, {"wool", "<text:span>wo</text:span>ol"}}));
    case MadeCell::number:
      return written(
          fmt::format(" office:value-type=\"{}\" office:value=\"{}\"",
                      *rc::gen::element<std::string>("float", "percentage", "currency"), cell.shown),
          "<text:p>as it is shown</text:p>");
    case MadeCell::date:
      return written(fmt::format(" office:value-type=\"date\" office:date-value=\"{}\"", cell.shown),
                     "<text:p>1/1/24</text:p>");
    default:
      return written(fmt::format(" office:value-type=\"boolean\" office:boolean-value=\"{}\"",
                                 cell.shown == "TRUE" ? "true" : "false"),
                     "<text:p>yes</text:p>");
  }
}

RC_GTEST_PROP(WorkbookXml, OdsCellsReadBackInEveryForm, ()) {
  const TemporaryFolder folder;
  const auto columns = static_cast<std::size_t>(pick(1, 5));
  MadeRows rows = random_rows(columns);
  std::string xml =
      "<table:table table:name=\"Sales\"><table:table-column/><table:table-header-rows><table:table-row>";
  for (std::size_t i = 0; i < columns; ++i) xml += ods_cell({MadeCell::text, fmt::format("name{}", i), 0}, 1);
  xml += "</table:table-row></table:table-header-rows>";
  std::vector<int> numbers;
  MadeRows repeated;
  int number = 1;
  for (auto& row : rows) {
    if (pick(0, 3) == 0) {  // empty rows between
      const int gap = pick(1, 1'000'000);
      xml += fmt::format(
          "<table:table-row table:number-rows-repeated=\"{}\"><table:table-cell/></table:table-row>", gap);
      number += gap;
    }
    const int copies = pick(0, 3) == 0 ? pick(2, 4) : 1;
    const bool in_group = pick(0, 3) == 0;
    if (in_group) xml += "<table:table-row-group table:display=\"false\">";
    xml += copies == 1 ? "<table:table-row>"
                       : fmt::format("<table:table-row table:number-rows-repeated=\"{}\">", copies);
    for (std::size_t i = 0; i < columns;) {
      const auto most = static_cast<int>(columns - i);
      const int same = pick(0, 2) == 0 ? pick(1, most) : 1;
      for (int copy = 1; copy < same; ++copy) row[i + static_cast<std::size_t>(copy)] = row[i];
      xml += ods_cell(row[i], same);
      i += static_cast<std::size_t>(same);
    }
    xml += "</table:table-row>";
    if (in_group) xml += "</table:table-row-group>";
    for (int copy = 0; copy < copies; ++copy) {
      numbers.push_back(++number);
      repeated.push_back(row);
    }
  }
  RC_PRE(number < 1'048'576);
  RC_ASSERT(rows_in(write_ods(folder, xml + "</table:table>")) == expected_rows(repeated, numbers));
}

/// The rows of an .xlsx file with the header "a".
std::vector<std::string> xlsx_rows(const std::string& rows, const std::string& strings = "",
                                   const std::string& workbook = "") {
  const TemporaryFolder folder;
  return rows_in(write_xlsx(
      folder, {"<row r=\"1\"><c t=\"str\"><v>a</v></c></row>" + rows, strings, workbook, "", "worksheet"}));
}

using Texts = std::vector<std::string>;

TEST(WorkbookXml, XlsxValuesHaveTheFormOfTheirStyle) {
  const auto cell = [](const std::string& attributes, const std::string& value,
                       const std::string& workbook = "") {
    return xlsx_rows("<row r=\"2\"><c " + attributes + "><v>" + value + "</v></c></row>", "", workbook).at(0);
  };
  EXPECT_EQ(cell("s=\"1\"", "45351"), "2:2024-02-29*|");
  EXPECT_EQ(cell("s=\"1\"", "45351.5"), "2:2024-02-29 12:00:00*|");
  EXPECT_EQ(cell("s=\"2\"", "0.75"), "2:18:00:00*|");
  EXPECT_EQ(cell("s=\"1\"", "0", "date1904=\"1\""), "2:1904-01-01*|");
  EXPECT_EQ(cell("s=\"1\"", "0", "date1904=\"true\""), "2:1904-01-01*|");
  EXPECT_EQ(cell("s=\"1\"", "43889", "date1904=\"0\""), "2:2020-02-28*|");
  EXPECT_EQ(cell("s=\"3\"", "45351"), "2:45351*|");   // a number of days is not a date
  EXPECT_EQ(cell("s=\"99\"", "45351"), "2:45351*|");  // a style that does not exist
  EXPECT_EQ(cell("t=\"e\"", "#N/A"), "2:#N/A|");
  EXPECT_EQ(cell("t=\"str\"", "a_x000A_b"), "2:a\nb|");
  EXPECT_EQ(cell("t=\"str\"", "_x00ZZ_ _x0041"), "2:_x00ZZ_ _x0041|");  // no escapes of the standard
  EXPECT_EQ(cell("t=\"str\"", "_x005F_x0041_"), "2:_x0041_|");          // an escaped underscore
  EXPECT_EQ(cell("", "1.10000000000000009"), "2:1.1*|");
}

TEST(WorkbookXml, DamagedXlsxSheetsAreRefusedWithTheReason) {
  const auto fault = [](const std::string& rows) { return xlsx_rows(rows).at(0); };
  EXPECT_EQ(fault("<row r=\"2\"><c t=\"s\"><v>0</v></c></row>"),
            "BOOK is damaged: a cell refers to text 0, which does not exist. Save the workbook again.");
  EXPECT_EQ(fault("<row r=\"2\"><c r=\"B2\"><v>1</v></c><c r=\"A2\"><v>1</v></c></row>"),
            "BOOK is damaged: cell A2 is not to the right of the cell before it. Save the workbook again.");
  EXPECT_EQ(fault("<row r=\"2\"><c r=\"2\"><v>1</v></c></row>"),
            "BOOK is damaged: cell 2 is not to the right of the cell before it. Save the workbook again.");
  EXPECT_EQ(
      fault("<row r=\"2\"><c r=\"ZZZZ2\"><v>1</v></c></row>"),
      "BOOK is damaged: cell ZZZZ2 is not to the right of the cell before it. Save the workbook again.");
  EXPECT_EQ(fault("<row r=\"0\"><c><v>1</v></c></row>"),
            "BOOK is damaged: a row has the number 0. Save the workbook again.");
  EXPECT_EQ(fault("<row r=\"1048577\"><c><v>1</v></c></row>"),
            "BOOK is damaged: a row has the number 1048577. Save the workbook again.");
  EXPECT_EQ(xlsx_rows("<row r=\"1048576\"><c><v>1</v></c></row>").at(0), "1048576:1*|");
  EXPECT_EQ(xlsx_rows("<row r=\"2\"><c><v>1</v></c><c r=\"D2\"><v>2</v></c></row>").at(0),
            "2: has 4 cells where the header has 1: 1,,,2");
}

TEST(WorkbookXml, OdsTextsAndTimesAreReadAsTheyAreShown) {
  const TemporaryFolder folder;
  const auto cell = [&](const std::string& attributes, const std::string& inside) {
    return rows_in(write_ods(
                       folder,
                       "<table:table table:name=\"S\"><table:table-row><table:table-cell "
                       "office:value-type=\"string\"><text:p>a</text:p></table:table-cell></table:table-row>"
                       "<table:table-row><table:table-cell " +
                           attributes + ">" + inside + "</table:table-cell></table:table-row></table:table>"))
        .at(0);
  };
  const std::string text = "office:value-type=\"string\"";
  EXPECT_EQ(cell(text, "<text:p>a<text:tab/>b<text:line-break/>c</text:p><text:p>d</text:p>"),
            "2:a\tb\nc\nd|");
  EXPECT_EQ(cell(text, "<text:p>a<text:s/>b <text:a><text:span>c</text:span></text:a></text:p>"), "2:a b c|");
  const auto time = [&](const std::string& duration) {
    return cell("office:value-type=\"time\" office:time-value=\"" + duration + "\"", "");
  };
  EXPECT_EQ(time("PT09H30M05S"), "2:09:30:05*|");
  EXPECT_EQ(time("PT36H00M00S"), "2:36:00:00*|");
  EXPECT_EQ(time("PT09H30M59.7S"), "2:09:31:00*|");
  EXPECT_EQ(time("PT23H59M59.5S"), "2:24:00:00*|");
  EXPECT_EQ(time("PT5M"), "2:00:05:00*|");
  EXPECT_EQ(time("-PT5M"), "2:-PT5M*|");
  EXPECT_EQ(time("PT5X"), "2:PT5X*|");
  EXPECT_EQ(cell("office:value-type=\"date\" office:date-value=\"2024-03-01T23:59:59\"", ""),
            "2:2024-03-01 23:59:59*|");
}

TEST(WorkbookXml, OdsSheetsMayBeRepeatedOnlyWithinReason) {
  const TemporaryFolder folder;
  const auto rows = [&](const std::string& xml) {
    return rows_in(write_ods(folder,
                             "<table:table table:name=\"S\"><table:table-row><table:table-cell "
                             "office:value-type=\"float\" office:value=\"1\"/></table:table-row>" +
                                 xml + "</table:table>"));
  };
  const std::string one = "<table:table-cell office:value-type=\"float\" office:value=\"5\"/>";
  EXPECT_EQ(
      rows("<table:table-row table:number-rows-repeated=\"10000\">" + one + "</table:table-row>").size(),
      10'000U);
  EXPECT_EQ(rows("<table:table-row table:number-rows-repeated=\"10001\">" + one + "</table:table-row>"),
            Texts{"BOOK is damaged: row 2 is repeated too often. Save the workbook again."});
  EXPECT_EQ(rows("<table:table-row><table:table-cell table:number-columns-repeated=\"16384\"/>" + one +
                 "</table:table-row>"),
            Texts{"BOOK is damaged: a row has more than 16384 cells. Save the workbook again."});
  EXPECT_EQ(rows("<table:table-row>" + one +
                 "<table:table-cell table:number-columns-repeated=\"16384\"/></table:table-row>"),
            Texts{"2:5*|"});
}

TEST(WorkbookXml, OtherArchivesAreRefusedByWhatTheyAre) {
  const TemporaryFolder folder;
  const auto fault = [&](const ZipParts& parts) { return rows_in(write_zip(folder, "a.zip", parts)).at(0); };
  EXPECT_EQ(fault({{"readme.txt", "hello"}}),
            "BOOK is a zip archive, not a table. Unpack it and name the files in it.");
  EXPECT_EQ(fault({{"xl/workbook.bin", "x"}}),
            "BOOK is a binary workbook (.xlsb), which cannot be read. Save it as .xlsx or .csv.");
  EXPECT_EQ(fault({{"mimetype", "application/vnd.oasis.opendocument.text"}, {"content.xml", "<a/>"}}),
            "BOOK is a zip archive, not a table. Unpack it and name the files in it.");
  EXPECT_EQ(rows_in(write_xlsx(folder, {"", "", "", "", "chartsheet"})),
            Texts{"BOOK has no sheet with cells."});
  EXPECT_EQ(rows_in(write_ods(folder, "<table:table table:name=\"S\"/>")), Texts{});
  EXPECT_EQ(rows_in(write_ods(folder, "<table:table table:name=\"S\"/>"), "Cover"),
            Texts{"BOOK has no sheet \"Cover\". Its only sheet is: \"S\"."});
}

}  // namespace
}  // namespace pear::test
