// Numbers, dates and encodings as exports write them.
#include <fmt/format.h>
#include <gtest/gtest.h>
#include <rapidcheck/gtest.h>

#include "intake/inspect/value_shape.hpp"
#include "intake/read/moment_reader.hpp"
#include "intake/read/number_reader.hpp"
#include "support/importing.hpp"

namespace pear::test {
namespace {

RC_GTEST_PROP(Formats, NumbersWithCommasAndPointsAreReadBack, ()) {
  const std::int64_t units = *rc::gen::inRange<std::int64_t>(-2'000'000'000'000, 2'000'000'000'000);
  std::string plain = Decimal::from_units(units).to_text(2);
  const std::size_t point = plain.find('.');
  std::string comma = plain;
  comma[point] = ',';
  for (std::size_t at = point; at > 3 && comma[at - 4] != '-'; at -= 3) comma.insert(at - 3, ".");
  const intake::NumberFormat format{',', "."};
  RC_ASSERT(intake::NumberReader(format).read(comma)->units() == units);
  const intake::ValueShape shape = intake::shape_of(comma);
  RC_ASSERT(shape.shape == intake::Shape::number);
  RC_ASSERT(shape.number.negative == (units < 0));
}

TEST(Formats, RejectsMisplacedSeparators) {
  const intake::NumberFormat german{',', "."}, swiss{'.', "'"}, comma{','};
  for (const char* text : {"1.23", "12.3456,7", "1.234.5", ".123", "1,2,3", "1 000", "1.2345", "abc"})
    EXPECT_FALSE(intake::NumberReader(german).read(text)) << text;
  EXPECT_EQ(intake::NumberReader(german).read("1234,5")->to_text(), "1234.5");
  EXPECT_EQ(intake::NumberReader(swiss).read("1'234'567.5")->to_text(), "1234567.5");
  EXPECT_FALSE(intake::NumberReader(comma).read("1.5"));
}

/// A number is read back with anything around its digits, and with any separator of thousands.
RC_GTEST_PROP(Formats, DressedNumbersAreReadBack, ()) {
  const std::int64_t units = *rc::gen::inRange<std::int64_t>(-9'000'000'000, 9'000'000'000) * 100;
  const std::string blank = *rc::gen::element<std::string>("", " ", "\u00A0");
  const std::string word = *rc::gen::element<std::string>("", "€", "EUR", "Kč");
  const std::pair<std::string, char> separators[] = {{"", '.'},       {",", '.'}, {".", ','},     {" ", ','},
                                                     {"\u202F", ','}, {"'", '.'}, {"\u2019", '.'}};
  const auto& [thousands, decimal] = separators[*rc::gen::inRange(0, 7)];
  std::string digits = Decimal::from_units(units < 0 ? -units : units).to_text(2);
  const std::size_t point = digits.find('.');
  digits[point] = decimal;
  for (std::size_t at = point; at > 3; at -= 3) digits.insert(at - 3, thousands);
  const bool front = *rc::gen::arbitrary<bool>();
  std::string text = word.empty() ? digits : front ? word + blank + digits : digits + blank + word;
  if (units < 0) {
    const int way = *rc::gen::inRange(0, 4);
    text = way == 0 ? "-" + text : way == 1 ? "(" + text + ")" : way == 2 ? text + "-" : "\u2212" + text;
  }
  intake::NumberFormat format{decimal, thousands, {"EUR", "€", "Kč"}, true, true};
  if (thousands == "\u202F") format.thousands = " ";
  if (thousands == "\u2019") format.thousands = "'";
  const auto number = intake::NumberReader(format).read(text);
  RC_ASSERT(number && number->units() == units);
  const intake::ValueShape shape = intake::shape_of(text);
  RC_ASSERT(shape.shape == intake::Shape::number && shape.number.negative == (units < 0));
}

TEST(Formats, RejectsWhatTheFormatDoesNotSay) {
  const intake::NumberFormat plain, percent{'.', ",", {"pcs"}, false, false, true};
  for (const char* text : {"(12)", "12-", "10%", "$5", "3 pcs", "1 000"})
    EXPECT_FALSE(intake::NumberReader(plain).read(text)) << text;
  intake::NumberReader reader(percent);
  EXPECT_EQ(reader.read("12.5%")->to_text(), "0.125");
  EXPECT_EQ(reader.read("3 pcs")->to_text(), "3");
  EXPECT_EQ(reader.read("12,34,567")->to_text(), "1234567");
  for (const char* text : {"12.345%", "--5", "5%%", "pcs", "-", "3 kg", "1,23"})
    EXPECT_FALSE(reader.read(text)) << text;
  EXPECT_EQ(Decimal::parse_rounded("-1.00005")->to_text(), "-1.0001");
  EXPECT_EQ(Decimal::parse_rounded("0.33333333333333")->to_text(), "0.3333");
}

TEST(Formats, TwoCurrenciesInOneColumnAreAnError) {
  const TemporaryFolder folder;
  folder.write("l.csv",
               "order_id,order_date,customer_id,product_id,quantity,unit_price\nA1,2024-01-01,C1,P1,1,€ 5\n"
               "A2,2024-01-02,C1,P1,1,EUR 6\nA3,2024-01-03,C1,P1,1,$ 7\n");
  EXPECT_EQ(import_intake(folder, "[lines]\nfile = \"l.csv\"\nstrip = [\"€\", \"EUR\", \"$\"]\n").fault,
            "l.csv, column unit_price: \"€ 5\" on line 2 and \"$ 7\" on line 4 are in two currencies. "
            "Amounts are added up, so "
            "a daybook has one: convert them, or export them to separate files.");
}

TEST(Formats, RowsAroundTheTableAreSkippedOnlyByTheKeys) {
  const TemporaryFolder folder;
  folder.write(
      "l.csv",
      "Report\n\norder_id,order_date,customer_id,product_id,quantity,unit_price\nA1,2024-01-01,C1,P1,1,5\n"
      ",,,,,\nTotal,,,,1,5\nTotal of all\n");
  folder.write("none.csv", "");
  const ImportRun run = import_intake(
      folder, "[lines]\nfile = [\"none.csv\", \"l.csv\"]\nheader_line = 3\nskip_rows = \"Total*\"\n");
  ASSERT_TRUE(run.imported) << run.fault;
  EXPECT_EQ(run.imported->built.daybook.lines(), 1U);
  EXPECT_TRUE(run.rejected.empty());
  EXPECT_EQ(run.imported->notes, (std::vector<std::string>{folder / "none.csv" + " is empty and was skipped.",
                                                           "2 rows were skipped by skip_rows."}));
  const ImportRun without = import_intake(folder, "[lines]\nfile = \"l.csv\"\nheader_line = 3\n");
  EXPECT_EQ(without.rejected.size(), 2U);
}

RC_GTEST_PROP(Formats, DatesAreReadBackInEveryFormat, ()) {
  const Date date{*rc::gen::inRange<std::int32_t>(-100'000, 100'000)};
  const std::string iso = to_text(date);
  const std::string y = iso.substr(0, 4), m = iso.substr(5, 2), d = iso.substr(8, 2);
  RC_ASSERT(intake::parse_moment(d + "." + m + "." + y, "%d.%m.%Y")->date == date);
  RC_ASSERT(intake::parse_moment(m + "/" + d + "/" + y + " 14:05", "%m/%d/%Y %H:%M")->second_of_day ==
            50'700);
  RC_ASSERT(intake::parse_moment(y + m + d, "%Y%m%d")->date == date);
  const intake::ValueShape shape = intake::shape_of(d + "." + m + "." + y);
  RC_ASSERT(shape.shape == intake::Shape::date);
  RC_ASSERT(intake::format_of(shape.date.form, true) == "%d.%m.%Y");
  RC_ASSERT(intake::format_of("?\?/?\?/yy hh:mm:ss", false) == "%m/%d/%y %H:%M:%S");
}

TEST(Formats, DistinguishesImpossibleDates) {
  EXPECT_EQ(intake::parse_moment("31.02.2024", "%d.%m.%Y").error(), DateFault::no_such_day);
  EXPECT_EQ(intake::parse_moment("soon", "%d.%m.%Y").error(), DateFault::not_a_date);
  EXPECT_EQ(intake::parse_moment("01.02.2024 x", "%d.%m.%Y").error(), DateFault::not_a_date);
  const intake::MomentFormat format{{"%Y-%m-%d", "%d.%m.%Y"}};
  intake::MomentReader reader(format);
  EXPECT_EQ(to_text(reader.read("2024-03-01")->date), "2024-03-01");
  EXPECT_EQ(to_text(reader.read("02.03.2024")->date), "2024-03-02");
  EXPECT_EQ(reader.describe(reader.read("March").error()), "is not a date (%Y-%m-%d or %d.%m.%Y)");
}

TEST(Formats, OtherColumnsUseTheTablesFormat) {
  const TemporaryFolder folder;
  folder.write("lines.csv",
               "order_id;order_date;customer_id;product_id;quantity;unit_price;limit;since;code\n"
               "A1;31.12.2024;C\xFC;P1;1;1.234,50;10.000,00;01.02.2020;007\nA2;01.01.2025;C2;P1;2;0,5;2,5;03."
               "04.2021;1,5\n");
  const ImportRun run = import_intake(
      folder,
      "[lines]\nfile = \"lines.csv\"\ndecimal = \",\"\nthousands = \".\"\ndate_format = \"%d.%m.%Y\"\n");
  ASSERT_TRUE(run.imported) << run.fault;
  EXPECT_EQ(columns_by_name(run.imported->built.daybook, {"order_date", "amount", "limit", "since", "code"}),
            "order_date: order 2025-01-01 2024-12-31\namount: line 1 1234.5\nlimit: customer 2.5 10000\n"
            "since: customer 2021-04-03 2020-02-01\ncode: customer 1,5 007\n");
  EXPECT_EQ(run.imported->built.daybook.customer_ids()[1], "C\xC3\xBC");
  EXPECT_EQ(run.imported->notes, (std::vector<std::string>{"Read as Windows-1252."}));
}

TEST(Formats, RejectsDamagedText) {
  const TemporaryFolder folder;
  folder.write(
      "lines.csv",
      "order_id,order_date,customer_id,product_id,quantity,unit_price\nA1,2024-01-02,C1,P\xff,2,1.5\n"
      "A2,2024-01-02,C1,P1,2,1.5\n");
  const ImportRun run = import_intake(folder, "[lines]\nfile = \"lines.csv\"\nencoding = \"UTF-8\"\n");
  ASSERT_EQ(run.rejected.size(), 1U);
  EXPECT_EQ(run.rejected[0].column + " " + run.rejected[0].reason, "product_id is not UTF-8 text");
}

}  // namespace
}  // namespace pear::test
