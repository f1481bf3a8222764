// Guessing as decision tables: what a text can be, what is around a number, where the header is, which rows
// are none.
#include <algorithm>

#include <fmt/format.h>
#include <gtest/gtest.h>
#include <rapidcheck/gtest.h>

#include "base/date.hpp"
#include "intake/inspect/layout.hpp"
#include "intake/inspect/value_shape.hpp"
#include "intake/read/moment_reader.hpp"
#include "support/random_shop.hpp"

namespace pear::test {
namespace {

std::string shown(const intake::NumberShape& number) {
  std::string text = fmt::format("{}", number.value);
  if (number.point_is_decimal) text += " point";
  if (number.comma_is_decimal) text += " comma";
  if (number.has_point && number.has_comma) text += " both";
  if (number.leading_zero) text += " zero";
  return text;
}

/// With n for the digits of a day or month, of which the text does not say which it is.
std::string shown(std::string_view text) {
  intake::ValueShape shape = intake::shape_of(text);
  std::replace(shape.date.form.begin(), shape.date.form.end(), '?', 'n');
  switch (shape.shape) {
    case intake::Shape::empty:
      return "empty";
    case intake::Shape::text:
      return "text";
    case intake::Shape::number:
      return (shape.is_dressed ? "dressed " : "number ") + shown(shape.number);
    default:
      return fmt::format("date {}{}{}{} {} {}", shape.date.form, shape.date.first_is_day ? " first" : "",
                         shape.date.second_is_day ? " second" : "",
                         shape.date.language == "en" ? "" : " " + shape.date.language, shape.date.day_first,
                         shape.date.month_first);
  }
}

TEST(ValueShape, OfNumbers) {
  const std::pair<const char*, const char*> cases[] = {
      {"", "empty"},
      {"12", "number 12"},
      {"-12", "number -12"},
      {"+12", "number 12"},
      {"1.5", "number 1.5 point"},
      {"1,5", "number 1.5 comma"},
      {"1.234", "number 1.234"},              // thousands or decimals: it does not say
      {"1,234", "number 1.234"},              // a first guess, to be settled by other values
      {"1234.567", "number 1234.567 point"},  // four digits before it
      {".500", "number 0.5 point"},
      {"1.234,5", "number 1234.5 comma both"},
      {"1,234.5", "number 1234.5 point both"},
      {"1.234.567", "number 1234567"},
      {"1,234,567.8", "number 1234567.8 point both"},
      {"007", "number 7 zero"},
      {"0", "number 0"},
      {"0.5", "number 0.5 point"},
      {"1.23.456", "text"},
      {"1.2345.678", "text"},
      {"12.", "text"},
      {"-", "text"},
      {"1.2,3.4,5", "text"},
      {"A17", "text"},
      {"17a", "dressed 17"},  // a unit
      {"€ 5", "dressed 5"},
      {"5 EUR", "dressed 5"},
      {"(12.50)", "dressed -12.5 point"},
      {"12,50-", "dressed -12.5 comma"},
      {"10%", "dressed 10"},
      {"- € 5", "dressed -5"},
      {"1 234,50 €", "dressed 1234.5 comma"},
      {"1'234.50", "dressed 1234.5 point"},
      {"--5", "text"},
      {"5 pieces each", "text"},
      {"Sock yarn 50", "text"},
      {"Nr. 12", "text"},
      {"XAF 500", "dressed 500"},
      {"XAF500", "text"}};
  for (const auto& [text, wanted] : cases) EXPECT_EQ(shown(text), wanted) << text;
}

TEST(ValueShape, OfDates) {
  const std::pair<const char*, const char*> cases[] = {
      {"2024-01-31", "date yyyy-mm-dd 20240131 20240131"},
      {"2024/1/5", "date yyyy/mm/dd 20240105 20240105"},
      {"31.12.2024", "date nn.nn.yyyy first 20241231 20243112"},
      {"12/31/24", "date nn/nn/yy second 20243112 20241231"},
      {"01/02/2024", "date nn/nn/yyyy 20240201 20240102"},
      {"2024-01-31T10:30", "date yyyy-mm-ddThh:mm 20240131 20240131"},
      {"2024-01-31 10:30:59", "date yyyy-mm-dd hh:mm:ss 20240131 20240131"},
      {"2024-01-31 10:30:59.123", "date yyyy-mm-dd hh:mm:ss 20240131 20240131"},
      {"01/31/2024, 2:30 PM", "date nn/nn/yyyy, hh:mm ap second 20243101 20240131"},
      {"01/31/2024 2:30pm", "date nn/nn/yyyy hh:mmap second 20243101 20240131"},
      {"12. März 2024", "date dd. Mon yyyy de 20240312 20240312"},
      {"Mar 12, 2024", "date Mon dd, yyyy 20240312 20240312"},
      {"12-Mar-24 14:30", "date dd-Mon-yy hh:mm 20240312 20240312"},
      {"32/32/2024", "text"},
      {"00/10/2024", "text"},
      {"2024-01.31", "text"},
      {"2024-01-31 10", "text"},
      {"2024-01-31 10:3", "text"},
      {"2024-01-31x", "text"},
      {"1/2/3", "text"},
      {"123/1/2024", "text"},
      {"Report of March 2024", "text"},
      {"45 Mar 2024", "text"}};
  for (const auto& [text, wanted] : cases) EXPECT_EQ(shown(text), wanted) << text;
  for (const char* text : {"20240131", "19000101", "20991231"})
    EXPECT_TRUE(intake::is_compact_date(text)) << text;
  for (const char* text :
       {"18991231", "21000101", "20241331", "20240001", "20240132", "20240100", "2024013", "2024-131"})
    EXPECT_FALSE(intake::is_compact_date(text)) << text;
}

/// A date in any format that is offered for it is read back by that format.
RC_GTEST_PROP(ValueShape, OfferedFormatsReadTheDate, ()) {
  const Date date{pick(0, 40'000)};
  const std::string iso = to_text(date), y = iso.substr(0, 4), m = iso.substr(5, 2), d = iso.substr(8, 2);
  const std::string separator = *rc::gen::element<std::string>(".", "/", "-");
  const std::string year =
      pick(0, 1) == 0 || date < date_of(2000, 1, 1) || date >= date_of(2069, 1, 1) ? y : y.substr(2);
  const std::string text = *rc::gen::element<std::string>(d + separator + m + separator + year,
                                                          m + separator + d + separator + year,
                                                          y + separator + m + separator + d, y + m + d) +
                           "";
  const std::string time =
      *rc::gen::element<std::string>("", " 14:05", " 14:05:09", " 2:05 PM", " 02:05:09 pm", "T14:05:09");
  const bool is_compact = text.size() == 8 && text.find_first_not_of("0123456789") == std::string::npos;
  const std::string whole = text + (is_compact ? "" : time);
  const std::vector<std::string> formats = intake::fitting_formats(whole);
  bool found = false;
  for (const std::string& format : formats) {
    const auto read = intake::parse_moment(whole, format);
    found = found || (read && read->date == date);
    if (read && !is_compact && !time.empty()) RC_ASSERT(read->second_of_day / 60 == 14 * 60 + 5);
  }
  RC_LOG() << whole;
  RC_ASSERT(found || formats.size() == 1);  // 03.01.2024 with points is never taken for a month first
}

TEST(Layout, TheHeaderIsTheFirstRowWithMostOfTheColumns) {
  const auto place = [](const std::vector<std::vector<std::string>>& rows) {
    std::vector<sources::PlainRow> plain;
    for (std::size_t i = 0; i < rows.size(); ++i) plain.push_back({i + 1, rows[i]});
    const intake::HeaderPlace header = intake::find_header(plain);
    return header.line == 0 ? "first" : fmt::format("{}: {}", header.line, header.why);
  };
  const std::vector<std::string> header = {"Order", "Date", "Customer", "Town"},
                                 row = {"A1", "2024-01-01", "C1", "x"};
  EXPECT_EQ(place({header, row, row}), "first");
  EXPECT_EQ(place({{"Report"}, header, row, row}),
            "2: 1 row before it, such as \"Report\", has fewer values than the table has columns");
  EXPECT_EQ(place({{"", "Report"}, {"Branch", "12"}, header, row, row}),
            "3: 2 rows before it, such as \"Report\", have fewer values than the table has columns");
  EXPECT_EQ(place({{"Report"}, {"1", "2024-01-01", "5", "6"}, row, row}), "first")
      << "numbers and dates are no names";
  EXPECT_EQ(place({{"Report"}, {"Remarks"}}), "first");
  EXPECT_EQ(place({}), "first");
}

std::string odd_rows(const std::string& text) {
  sources::CsvParser parser({','}, 4);
  parser.feed(text);
  parser.finish();
  intake::OddRowWatcher watcher({"Order", "Date", "Product", "Price"});
  watcher.see(parser.take(), 2);
  std::string all;
  for (const intake::OddRows& odd : watcher.take())
    all += fmt::format("{} {} {}; ", odd.pattern, odd.rows, odd.why);
  return all;
}

TEST(Layout, RowsThatAreNoneAreTotalsHeadersAndRemarks) {
  const std::string row = "A1,2024-01-01,P1,5\n",
                    filled = "a total: columns are empty that are filled elsewhere; ";
  EXPECT_EQ(odd_rows(row + row + row), "");
  EXPECT_EQ(odd_rows(row + row + "Total,,,15\n"), "Total* 1 " + filled);
  EXPECT_EQ(odd_rows(row + row + "Total of May,,P1,15\n"), "Total* 1 " + filled) << "one of four is empty";
  EXPECT_EQ(odd_rows(row + row + row + "Thank you,,P1,\n"),
            "Thank you 1 at the end of the file, with few values; ")
      << "two of four are empty";
  EXPECT_EQ(odd_rows(row + row + row + "Thank you,,P1,5\n"), "");
  EXPECT_EQ(odd_rows(row + "Subtotal A1,,,5\n" + row + "Subtotal A2,,,5\n"),
            "Subtotal* 2 totals: columns are empty that are filled elsewhere; ");
  EXPECT_EQ(odd_rows(row + row + "Gesamt: 15\n"), "Gesamt* 1 " + filled) << "a malformed row";
  EXPECT_EQ(odd_rows(row + "Totally new,2024-01-01,P1,5\n" + row), "") << "another word";
  EXPECT_EQ(odd_rows(row + "Total care,2024-01-01,P1,5\n" + row + "Total,,,5\n"), "Total 1 " + filled)
      << "ordinary rows begin with it";
  EXPECT_EQ(odd_rows(row + "Order,Date,Product,Price\n" + row), "Order 1 repeats the header; ");
  EXPECT_EQ(odd_rows(row + "Order,Date,Product,5\n" + row), "") << "not the whole header";
  EXPECT_EQ(odd_rows(row + row + "Printed on 2024-02-01\n"),
            "Printed on* 1 at the end of the file, with few values; ");
  EXPECT_EQ(odd_rows(row + row + "Page 1\nPage 2\n"), "Page* 2 at the end of the file, with few values; ");
  EXPECT_EQ(odd_rows(row + row + "[*] see below?\n"),
            "??? see below? 1 at the end of the file, with few values; ");
  EXPECT_EQ(odd_rows("Printed on 2024-02-01\n" + row + row), "") << "not at the end";
}

}  // namespace
}  // namespace pear::test
