#include "expression/expression.hpp"

#include <gtest/gtest.h>

#include "base/date.hpp"
#include "base/decimal.hpp"
#include "daybook/daybook.hpp"

namespace pear::test {
namespace {

constexpr std::int64_t kOne = Decimal::kScale;

/// Three rows; the last has empty values. `region` is a customer's column, accessed through the members of
/// rows.
class Expressions : public testing::Test {
 protected:
  Expressions() {
    view_.rows = 3;
    view_.columns = {
        {"region", &region_, &customer_}, {"quantity", &quantity_}, {"price", &price_}, {"order_date", &day_},
        {"order_time", &time_},           {"is_return", &flag_},    {"größe", &size_}};
  }

  /// The values of the three rows, or the fault.
  std::string of(const std::string& text) const {
    const auto expression = expression::Expression::compile(text, view_);
    if (!expression) return expression.error().message;
    const auto values = expression->evaluate_checked(view_, 0, view_.rows);
    if (!values) return values.error().message;
    std::string all;
    for (std::size_t row = 0; row < values->size(); ++row) {
      const bool empty = values->states[row] == expression::ValueState::empty;
      all += (row > 0 ? "|" : "") + (empty ? std::string("NULL") : expression::value_text(*values, row));
    }
    return all;
  }

  daybook::ColumnValues region_ = daybook::TextValues{{0, 1}, [] {
                                                        TextArray texts;
                                                        texts.push_back("North");
                                                        texts.push_back("Süd-West");
                                                        return texts;
                                                      }()};
  std::vector<std::uint32_t> customer_ = {1, 0, daybook::kNoMember};
  daybook::ColumnValues quantity_ = daybook::DecimalValues{{2 * kOne, -3 * kOne, daybook::kEmptyUnits}};
  daybook::ColumnValues price_ = daybook::DecimalValues{{25'000, 0, daybook::kEmptyUnits}};
  daybook::ColumnValues day_ =
      daybook::DateValues{{date_of(2024, 2, 28).days, date_of(2024, 12, 30).days, daybook::kEmptyDays}};
  daybook::ColumnValues time_ = daybook::TimeValues{{14 * 3600 + 300, 7, Moment::kNoTime}};
  daybook::ColumnValues flag_ = daybook::FlagValues{{0, 1, 0}};
  daybook::ColumnValues size_ = daybook::TextValues{{0, 0, daybook::kEmptyCode}, [] {
                                                      TextArray texts;
                                                      texts.push_back(" 1% O'B ");
                                                      return texts;
                                                    }()};
  expression::RowView view_;
};

TEST_F(Expressions, ValuesAreThoseOfSql) {
  const std::vector<std::pair<std::string, std::string>> cases = {
      {"1 + 2 * 3 - 4 / 8", "6.5|6.5|6.5"},
      {"-(quantity - 1) * 2", "-2|8|NULL"},
      {"1 / 3", "0.3333|0.3333|0.3333"},
      {"-2 / 3", "-0.6667|-0.6667|-0.6667"},
      {"quantity * price", "5|0|NULL"},
      {"quantity > 0 AND price > 0", "true|false|NULL"},
      {"quantity < 0 OR quantity IS NULL", "false|true|true"},
      {"NOT quantity > 0", "false|true|NULL"},
      {"NULL AND quantity < 0", "false|NULL|NULL"},
      {"NULL OR quantity > 0", "true|NULL|NULL"},
      {"region IN ('North', 'East')", "false|true|NULL"},
      {"region NOT IN ('North')", "true|false|NULL"},
      {"quantity IN (1, NULL)", "NULL|NULL|NULL"},
      {"quantity BETWEEN -3 AND 1", "false|true|NULL"},
      {"quantity NOT BETWEEN -3 AND 1", "true|false|NULL"},
      {"region LIKE 'S_d%'", "true|false|NULL"},
      {"region LIKE '%t%t%'", "false|false|NULL"},
      {"region NOT LIKE '%t'", "false|true|NULL"},
      {"region IS NOT NULL", "true|true|false"},
      {"CASE WHEN price = 0 THEN 0 ELSE quantity / price END", "0.8|0|NULL"},
      {"CASE region WHEN 'North' THEN 'N' END", "NULL|N|NULL"},
      {"coalesce(region, 'none')", "Süd-West|North|none"},
      {"nullif(quantity, 2)", "NULL|-3|NULL"},
      {"upper(region) || '!'", "SÜD-WEST!|NORTH!|NULL"},
      {"lower('ÄB')", "äb|äb|äb"},
      {"trim(\"größe\")", "1% O'B|1% O'B|NULL"},
      {"trim(größe) = '1% O''B'", "true|true|NULL"},
      {"substring(region FROM 2 FOR 3)", "üd-|ort|NULL"},
      {"substring(region, 4)", "-West|th|NULL"},
      {"substring(region FROM 0 FOR 2)", "S|N|NULL"},
      {"char_length(region)", "8|5|NULL"},
      {"abs(quantity)", "2|3|NULL"},
      {"round(2.5)", "3|3|3"},
      {"round(-2.345, 2)", "-2.35|-2.35|-2.35"},
      {"floor(-0.5) + ceiling(0.5)", "0|0|0"},
      {"order_date >= DATE '2024-03-01'", "false|true|NULL"},
      {"order_date + INTERVAL '2' DAY", "2024-03-01|2025-01-01|NULL"},
      {"DATE '2025-01-01' - order_date", "308|2|NULL"},
      {"EXTRACT(YEAR FROM order_date) * 100 + extract(month from order_date)", "202402|202412|NULL"},
      {"EXTRACT(QUARTER FROM order_date)", "1|4|NULL"},
      {"EXTRACT(WEEK FROM order_date)", "9|1|NULL"},
      {"EXTRACT(DAY FROM order_date)", "28|30|NULL"},
      {"EXTRACT(HOUR FROM order_time) + EXTRACT(MINUTE FROM order_time)", "19|0|NULL"},
      {"order_time < TIME '12:00'", "false|true|NULL"},
      {"is_return OR FALSE -- a comment", "false|true|false"},
      {"is_return = TRUE", "false|true|false"}};
  for (const auto& [text, expected] : cases) EXPECT_EQ(of(text), expected) << text;
}

TEST_F(Expressions, ErrorsNameTheColumns) {
  const std::vector<std::pair<std::string, std::string>> cases = {
      {"quantity > 1 AND region > 5",
       "\"region\" is text, which cannot be compared with the number 5 (column 27)"},
      {"regoin = 'North'", "there is no column \"regoin\". Did you mean \"region\"? (column 1)"},
      {"xyzzy = 1",
       "there is no column \"xyzzy\". Columns: region, quantity, price, order_date, order_time, is_return, "
       "größe. (column 1)"},
      {"quantity == 1",
       "cannot read \"quantity == 1\" from \"== 1\" on. Equality is written with one =. (column 10)"},
      {"quantity != 1",
       "cannot read \"quantity != 1\" from \"!= 1\" on. \"Not equal\" is written <>. (column 10)"},
      {"lowr(region)", "there is no function \"lowr\". Did you mean \"lower\"? (column 1)"},
      {"round()", "round needs 1 value or more, not 0 (column 1)"},
      {"order_date + 30", "to add days to a date, write INTERVAL '30' DAY instead of a number (column 14)"},
      {"order_date > DATE '2024-02-30'",
       "\"2024-02-30\" is not a date; it is written DATE '2024-09-30' (column 14)"},
      {"order_date > 'soon'",
       "\"order_date\" is a date, which cannot be compared with the text 'soon'; write a date as DATE "
       "'2024-06-01' "
       "(column 14)"},
      {"quantity / 0", "nothing can be divided by 0 (column 12)"},
      {"region + 1",
       "arithmetic needs a number, but \"region\" is text; if its texts are numbers, write "
       "CAST(region AS NUMERIC) (column 1)"},
      {"CASE WHEN CAST(region AS NUMERIC) THEN 1 END",
       "WHEN needs a condition, but this is a number (column 11)"},
      {"CASE WHEN CAST(region AS INTEGER) THEN 1 END",
       "WHEN needs a condition, but this is a number (column 11)"},
      {"1 > CAST(region AS WORDS)",
       "CAST converts to NUMERIC, DECIMAL, INTEGER, DATE, VARCHAR, not to \"WORDS\" (column 20)"},
      {"CASE WHEN quantity THEN 1 END", "WHEN needs a condition, but \"quantity\" is a number (column 11)"},
      {"coalesce(region, quantity)",
       "the values of COALESCE must be of one type, but \"region\" is text, and \"quantity\" is a number "
       "(column 18)"},
      {"1.23456 = 1", "\"1.23456\" is not a usable number: it has more than 4 decimal places (column 1)"},
      {" ", "the expression is empty"},
      {"price / (price - price) > 1",
       "\"price / (price - price) > 1\" divides by zero, leaves the range of numbers or dates, or uses a "
       "negative length, "
       "first in row 1. Use CASE WHEN ... to exclude such rows."}};
  for (const auto& [text, expected] : cases) EXPECT_EQ(of(text), expected) << text;
  EXPECT_EQ(expression::Expression::compile_condition("quantity", view_).error().message,
            "\"quantity\" is not a condition: \"quantity\" is a number");
  EXPECT_NE(of(std::string(5'000, '(')).find("opening parentheses"), std::string::npos);
}

/// A name that is compared with a column is probably a text without its quotes.
TEST(ExpressionNames, UnknownOnesMayBeTexts) {
  const auto fault = [](const std::string& text) {
    const auto checked =
        expression::check_names(*expression::parse_tree(text), {"region", "quantity", "order_date"});
    return checked ? "" : checked.error().message;
  };
  const std::string quotes = "there is no column \"Bergen\". If it is a text, put it in quotes: 'Bergen' ";
  EXPECT_EQ(fault("region = Bergen"), quotes + "(column 10)");
  EXPECT_EQ(fault("quantity > 1 and (region in ('North', Bergen))"), quotes + "(column 39)");
  EXPECT_EQ(fault("sum(quantity) filter (where region like Bergen)"), quotes + "(column 41)");
  EXPECT_EQ(fault("region = regoin"), "there is no column \"regoin\". Did you mean \"region\"? (column 10)");
  EXPECT_EQ(fault("Bergen = region"),
            "there is no column \"Bergen\". Columns: region, quantity, order_date. (column 1)");
  EXPECT_EQ(fault("region || Bergen"),
            "there is no column \"Bergen\". Columns: region, quantity, order_date. (column 11)");
  EXPECT_EQ(fault("Region = 'North' and \"Order Date\" is not null"), "");
}

TEST_F(Expressions, EqualValuesHaveEqualCodes) {
  const auto codes = [&](const std::string& text) {
    return *expression::codes_of(*expression::Expression::compile(text, view_), view_);
  };
  const auto by_text = codes("char_length(region) > 6");
  EXPECT_NE(by_text[0], by_text[1]);
  EXPECT_EQ(by_text[2], daybook::kEmptyCode);
  const auto by_rows = codes("price * 0 + quantity * 0");
  EXPECT_EQ(by_rows[0], by_rows[1]);
  EXPECT_EQ(by_rows[2], daybook::kEmptyCode);
}

}  // namespace
}  // namespace pear::test
