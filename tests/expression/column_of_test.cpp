// Columns computed from expressions, compared with the values of each row.
#include "expression/rows/column_of.hpp"

#include <random>

#include <fmt/format.h>
#include <gtest/gtest.h>
#include <rapidcheck/gtest.h>

#include "expression/expression.hpp"
#include "support/random_shop.hpp"

namespace pear::test {
namespace {

/// Rows with a number, a date and a text of few or many different values, some of them empty or of no member.
struct RandomRows {
  daybook::ColumnValues number, date, text;
  std::vector<std::uint32_t> members;
  expression::RowView view;

  explicit RandomRows(int rows) {
    std::mt19937 random(static_cast<unsigned>(pick(0, 1'000'000)));
    const auto pick = [&](int lowest, int highest) {
      return std::uniform_int_distribution(lowest, highest)(random);
    };
    const int different = *rc::gen::element(1, 5, 1'000);
    daybook::DecimalValues numbers;
    daybook::DateValues dates;
    daybook::TextValues texts;
    for (int i = 0; i < different; ++i) texts.dictionary.push_back(fmt::format("t{}", i));
    for (int row = 0; row < rows; ++row) {
      const bool empty = pick(0, 9) == 0;
      numbers.units.push_back(empty ? daybook::kEmptyUnits : 10'000 * pick(-different, different));
      dates.days.push_back(empty ? daybook::kEmptyDays : 19'000 + pick(0, different));
      texts.codes.push_back(empty ? daybook::kEmptyCode : static_cast<std::uint32_t>(pick(0, different - 1)));
      members.push_back(pick(0, 9) == 0 ? daybook::kNoMember : static_cast<std::uint32_t>(pick(0, rows - 1)));
    }
    number = std::move(numbers), date = std::move(dates), text = std::move(texts);
    view.rows = static_cast<std::size_t>(rows);
    for (const bool of_members : {false, true})
      for (const auto& [name, values] : {std::pair("number", &number), {"date", &date}, {"text", &text}})
        view.columns.push_back(
            {of_members ? fmt::format("member_{}", name) : name, values, of_members ? &members : nullptr});
  }
};

std::vector<std::string> texts_of(const daybook::ColumnValues& column, std::size_t rows) {
  std::vector<std::string> all;
  for (std::size_t row = 0; row < rows; ++row) all.push_back(daybook::value_text(column, row));
  return all;
}

RC_GTEST_PROP(ColumnOf, HasTheValueOfEachRow, ()) {
  const RandomRows random(pick(1, 300));
  const std::string expression_text = *rc::gen::element<std::string>(
      "case when number = 1 then 'one' when number < 0 then 'below' end", "number * 2 + 1",
      "number > 2 or number is null", "extract(month from date)", "date + interval '30' day", "upper(text)",
      "text || '!'", "case when text = 't1' then member_number else number end", "member_number / 4",
      "upper(member_text)", "coalesce(text, member_text)", "coalesce(member_date, date)",
      "10 / coalesce(number, 1)", "10 / coalesce(member_number, 7)", "10 / coalesce(number, 0)",
      "case when member_number > 0 then 'more' else text end");
  const auto expression = expression::Expression::compile(expression_text, random.view);
  RC_ASSERT(expression.has_value());
  const auto column = expression::column_of(*expression, random.view);
  const auto values = expression->evaluate_checked(random.view, 0, random.view.rows);
  RC_ASSERT(column.has_value() == values.has_value());
  if (!column) {
    RC_ASSERT(column.error().message == values.error().message);
    return;
  }
  std::vector<std::string> expected;
  for (std::size_t row = 0; row < values->size(); ++row)
    expected.push_back(
        values->states[row] == expression::ValueState::empty ? "" : expression::value_text(*values, row));
  RC_ASSERT(texts_of(*column, random.view.rows) == expected);
}

}  // namespace
}  // namespace pear::test
