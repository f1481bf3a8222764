// SQL's scalar functions against their definitions, on random values.
#include "expression/evaluate/functions.hpp"

#include <cmath>
#include <ctime>
#include <optional>

#include <fmt/format.h>
#include <gtest/gtest.h>
#include <rapidcheck/gtest.h>

#include "base/date.hpp"
#include "expression/expression.hpp"
#include "support/random_shop.hpp"

namespace pear::test {
namespace {

/// The value of an expression without columns, "NULL" or "fault".
std::string value(const std::string& text) {
  expression::RowView view;
  view.rows = 1;
  const auto compiled = expression::Expression::compile(text, view);
  if (!compiled) return compiled.error().message;
  const expression::Values values = compiled->evaluate(view, 0, 1);
  if (values.states[0] == expression::ValueState::fault) return "fault";
  return values.states[0] == expression::ValueState::empty ? "NULL" : expression::value_text(values, 0);
}

std::string literal(std::int64_t units) {
  const std::string text = Decimal::from_units(units).to_text();
  return units < 0 ? "(" + text + ")" : text;
}

std::string quoted(const std::string& text) {
  std::string all = "'";
  for (const char c : text) all += c == '\'' ? "''" : std::string(1, c);
  return all + "'";
}

RC_GTEST_PROP(Functions, PartsOfADateAreThoseOfTheCalendar, ()) {
  const Date date{pick(-200'000, 1'000'000)};
  const std::time_t seconds = std::int64_t{date.days} * 86'400;
  std::tm parts{};
  gmtime_r(&seconds, &parts);
  char week[8];
  std::strftime(week, sizeof week, "%V", &parts);
  const std::string day = "DATE '" + to_text(date) + "'";
  if (parts.tm_year + 1900 < 1000 || parts.tm_year + 1900 > 9999) return;
  const auto part = [&](const std::string& name) { return value("EXTRACT(" + name + " FROM " + day + ")"); };
  RC_ASSERT(part("YEAR") == std::to_string(parts.tm_year + 1900));
  RC_ASSERT(part("MONTH") == std::to_string(parts.tm_mon + 1));
  RC_ASSERT(part("DAY") == std::to_string(parts.tm_mday));
  RC_ASSERT(part("QUARTER") == std::to_string(parts.tm_mon / 3 + 1));
  RC_ASSERT(part("WEEK") == std::to_string(std::stoi(week)));
  const int days = pick(0, 20'000);
  const Date later{date.days + days};
  if (to_text(later).size() != 10) return;
  RC_ASSERT(value(fmt::format("{} + INTERVAL '{}' DAY", day, days)) == to_text(later));
  RC_ASSERT(value(fmt::format("DATE '{}' - {}", to_text(later), day)) == std::to_string(days));
}

/// The multiple of a step that is nearest to a number, half away from zero.
std::int64_t nearest(std::int64_t units, std::int64_t step) {
  const std::int64_t size = std::abs(units), rest = size % step;
  const std::int64_t down = size - rest, result = 2 * rest >= step ? down + step : down;
  return units < 0 ? -result : result;
}

RC_GTEST_PROP(Functions, NumbersAreRoundedByTheirDefinition, ()) {
  const std::int64_t units = pick(-2'000'000, 2'000'000), by = pick(-900, 900);
  constexpr std::int64_t kSteps[] = {10'000, 1'000, 100, 10, 1, 1};
  const int places = pick(0, 5);
  RC_ASSERT(value(fmt::format("round({}, {})", literal(units), places)) ==
            Decimal::from_units(nearest(units, kSteps[places])).to_text());
  RC_ASSERT(value(fmt::format("round({})", literal(units))) ==
            Decimal::from_units(nearest(units, 10'000)).to_text());
  RC_ASSERT(value(fmt::format("floor({})", literal(units))) ==
            std::to_string(static_cast<std::int64_t>(std::floor(static_cast<double>(units) / 10'000))));
  RC_ASSERT(value(fmt::format("ceiling({})", literal(units))) ==
            std::to_string(static_cast<std::int64_t>(std::ceil(static_cast<double>(units) / 10'000))));
  RC_ASSERT(value(fmt::format("abs({})", literal(units))) == Decimal::from_units(std::abs(units)).to_text());
  RC_ASSERT(value(fmt::format("-{}", literal(units))) == Decimal::from_units(-units).to_text());
  const std::string quotient = value(fmt::format("{} / {}", literal(units), literal(by)));
  if (by == 0) {
    RC_ASSERT(quotient ==
              "nothing can be divided by 0 (column " + std::to_string(literal(units).size() + 4) + ")");
    return;
  }
  // Twice as many units, so that half a unit is a whole number.
  const std::int64_t twice = std::abs(units) * 20'000 / std::abs(by);
  const std::int64_t rounded = (twice + 1) / 2;
  RC_ASSERT(quotient == Decimal::from_units((units < 0) != (by < 0) ? -rounded : rounded).to_text());
}

/// Texts as lists of their characters.
std::vector<std::string> random_characters() {
  const std::string letters[] = {"a", "B", "%", "_", "ß", "é", "漢", "🍐", " ", "'"};
  std::vector<std::string> all;
  for (int i = pick(0, 7); i > 0; --i) all.push_back(letters[pick(0, 9)]);
  return all;
}

std::string joined(const std::vector<std::string>& characters) {
  std::string text;
  for (const std::string& each : characters) text += each;
  return text;
}

RC_GTEST_PROP(Functions, TextsAreListsOfCharacters, ()) {
  const std::vector<std::string> characters = random_characters();
  const std::string text = quoted(joined(characters));
  RC_ASSERT(value("char_length(" + text + ")") == std::to_string(characters.size()));
  RC_ASSERT(value(text + " || 'x' || " + text) == joined(characters) + "x" + joined(characters));
  const int first = pick(-2, 9), count = pick(0, 9);
  std::string part, rest;
  for (int i = 0; i < static_cast<int>(characters.size()); ++i) {
    if (i + 1 >= first) rest += characters[static_cast<std::size_t>(i)];
    if (i + 1 >= first && i + 1 < first + count) part += characters[static_cast<std::size_t>(i)];
  }
  RC_ASSERT(value(fmt::format("substring({} FROM {} FOR {})", text, first, count)) == part);
  RC_ASSERT(value(fmt::format("substring({}, {})", text, first)) == rest);
  std::vector<std::string> inner = characters;
  while (!inner.empty() && inner.front() == " ") inner.erase(inner.begin());
  while (!inner.empty() && inner.back() == " ") inner.pop_back();
  RC_ASSERT(value("trim(" + text + ")") == joined(inner));
  RC_ASSERT(expression::trimmed("\t\xC2\xA0" + joined(characters) + "\r\n \xC2\xA0") == joined(inner));
}

/// The definition of LIKE, one character after another.
bool fits(const std::vector<std::string>& text, const std::vector<std::string>& pattern, std::size_t t = 0,
          std::size_t p = 0) {
  if (p == pattern.size()) return t == text.size();
  if (pattern[p] == "%")
    return fits(text, pattern, t, p + 1) || (t < text.size() && fits(text, pattern, t + 1, p));
  return t < text.size() && (pattern[p] == "_" || pattern[p] == text[t]) && fits(text, pattern, t + 1, p + 1);
}

RC_GTEST_PROP(Functions, LikeIsItsDefinition, ()) {
  const auto few = [] {  // so that many fit
    const std::string letters[] = {"a", "é", "%", "_"};
    std::vector<std::string> all;
    for (int i = pick(0, 6); i > 0; --i) all.push_back(letters[pick(0, 3)]);
    return all;
  };
  const std::vector<std::string> text = few(), pattern = few();
  RC_ASSERT(expression::is_like(joined(text), joined(pattern)) == fits(text, pattern));
}

TEST(Functions, CastReadsWhatItWrites) {
  const std::pair<const char*, const char*> cases[] = {{"CAST(' 12.50 ' AS NUMERIC)", "12.5"},
                                                       {"CAST('1.00005' AS NUMERIC)", "1.0001"},
                                                       {"CAST('' AS NUMERIC)", "NULL"},
                                                       {"CAST('twelve' AS NUMERIC)", "fault"},
                                                       {"CAST('2024-02-29' AS DATE)", "2024-02-29"},
                                                       {"CAST('2023-02-29' AS DATE)", "fault"},
                                                       {"CAST(' ' AS DATE)", "NULL"},
                                                       {"CAST(12.50 AS VARCHAR)", "12.5"},
                                                       {"CAST(DATE '2024-02-29' AS VARCHAR)", "2024-02-29"},
                                                       {"CAST('x' AS VARCHAR)", "x"},
                                                       {"CAST(5 AS NUMERIC)", "5"},
                                                       {"upper('straße')", "STRASSE"},
                                                       {"lower('ÀÉ')", "àé"},
                                                       {"upper('az{`')", "AZ{`"},
                                                       {"lower('AZ[@')", "az[@"},
                                                       {"coalesce(NULL, NULL, 3, 4)", "3"},
                                                       {"nullif(3, 3)", "NULL"},
                                                       {"nullif(NULL, 3)", "NULL"},
                                                       {"substring('abc', 1, 0 - 1)", "fault"},
                                                       {"900000000000000 * 10", "fault"},
                                                       {"TIME '23:59' > TIME '00:00:01'", "true"}};
  for (const auto& [text, wanted] : cases) EXPECT_EQ(value(text), wanted) << text;
}

}  // namespace
}  // namespace pear::test
