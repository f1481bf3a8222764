#include "output/tables/readable.hpp"

#include <fmt/format.h>
#include <unicode/uchar.h>
#include <unicode/utf8.h>

#include "base/text.hpp"
#include "result/cell_text.hpp"

namespace pear::output {
namespace {

std::size_t width_of(UChar32 character) {
  const int type = u_charType(character);
  if (type == U_NON_SPACING_MARK || type == U_ENCLOSING_MARK || type == U_FORMAT_CHAR) return 0;
  const int east_asian = u_getIntPropertyValue(character, UCHAR_EAST_ASIAN_WIDTH);
  return east_asian == U_EA_WIDE || east_asian == U_EA_FULLWIDTH ? 2 : 1;
}

/// Controls (also those of 0x80 to 0x9F), separators of lines and paragraphs, the byte order mark, and marks
/// that change the direction of the text after them. Not the joiners, which some scripts and emoji need.
bool is_commanding(UChar32 character) {
  const int type = u_charType(character);
  const bool separates = type == U_CONTROL_CHAR || type == U_LINE_SEPARATOR || type == U_PARAGRAPH_SEPARATOR;
  return separates || character == 0xFEFF || u_hasBinaryProperty(character, UCHAR_BIDI_CONTROL) != 0;
}

/// The end of the longest prefix of `text` that is at most `width` wide, and its width.
std::pair<std::size_t, std::size_t> front_of_width(std::string_view text, std::size_t width) {
  const auto* bytes = reinterpret_cast<const std::uint8_t*>(text.data());
  const auto size = static_cast<std::int32_t>(text.size());
  std::size_t used = 0;
  std::int32_t at = 0;
  while (at < size) {
    std::int32_t next = at;
    UChar32 character = 0;
    U8_NEXT_OR_FFFD(bytes, next, size, character);
    const std::size_t more = width_of(character);
    if (used + more > width) break;
    used += more;
    at = next;
  }
  return {static_cast<std::size_t>(at), used};
}

}  // namespace

std::string without_controls(std::string_view text, std::string_view kept) {
  constexpr std::string_view kReplacement = "\xEF\xBF\xBD";
  const auto* bytes = reinterpret_cast<const std::uint8_t*>(text.data());
  const auto size = static_cast<std::int32_t>(text.size());
  std::string clean;
  std::int32_t at = 0;
  while (at < size) {
    const std::int32_t begin = at;
    UChar32 character = 0;
    U8_NEXT(bytes, at, size, character);
    const bool is_kept = kept.find(text[static_cast<std::size_t>(begin)]) != std::string_view::npos;
    if (!is_kept && (character < 0 || is_commanding(character)))
      clean += kReplacement;
    else
      clean += text.substr(static_cast<std::size_t>(begin), static_cast<std::size_t>(at - begin));
  }
  return clean;
}

std::string readable_cell(const result::TableColumn& column, std::size_t row) {
  if (column.is_empty(row)) return "-";
  switch (column.unit) {
    case result::Unit::count:
    case result::Unit::days:
      return with_thousands(column.integer(row));
    case result::Unit::money:
      return column.places < 0 ? with_thousands(Decimal::from_units(column.integer(row)))
                               : with_thousands(Decimal::from_units(column.integer(row)), column.places);
    case result::Unit::number:
      return with_thousands(Decimal::from_units(column.integer(row)), column.places);
    case result::Unit::share:
      return fmt::format("{:.1f}%", 100 * column.fraction(row));
    case result::Unit::probability:
      return column.fraction(row) < 0.0001 ? "< 0.0001" : fmt::format("{:.4f}", column.fraction(row));
    case result::Unit::text:
    case result::Unit::date:
      return result::cell_text(column, row);
  }
  return "";
}

namespace {

/// "1,203 customers", or "212 of 1,203 customers".
std::string part_of(std::uint64_t part, std::optional<std::uint64_t> whole, std::string_view noun) {
  if (!whole || *whole == part) return counted(part, noun);
  return fmt::format("{} of {}", with_thousands(static_cast<std::int64_t>(part)), counted(*whole, noun));
}

}  // namespace

std::string readable_population(const result::Population& population,
                                const std::optional<result::Population>& whole, const std::string& currency) {
  const auto part = [&](std::uint64_t result::Population::*count, std::string_view noun) {
    return part_of(population.*count, whole ? std::optional(*whole.*count) : std::nullopt, noun);
  };
  std::string text = population.one_in == 0 ? ""
                                            : fmt::format("a sample of 1 in {} customers: ",
                                                          with_thousands(std::int64_t{population.one_in}));
  text += fmt::format("{}, {}, {}", part(&result::Population::customers, "customer"),
                      part(&result::Population::orders, "order"), part(&result::Population::lines, "line"));
  if (population.returns > 0) text += fmt::format(" ({})", counted(population.returns, "return"));
  if (population.amount) {
    text += ", amount " + with_thousands(*population.amount);
    const std::string unit = currency.empty() ? "" : " " + currency;
    if (!whole || !whole->amount || *whole->amount == *population.amount)
      text += unit;
    else if (*whole->amount > *population.amount)
      text += " of " + with_thousands(*whole->amount) + unit;
    else  // returns are left out, so the part is no share of the whole
      text += fmt::format("{} ({} in all lines)", unit, with_thousands(*whole->amount) + unit);
    if (population.fees) text += fmt::format(" (fees {})", with_thousands(*population.fees) + unit);
  }
  if (population.first_date)
    text += fmt::format(", {} to {}", to_text(*population.first_date), to_text(*population.last_date));
  return text;
}

std::size_t display_width(std::string_view text) { return front_of_width(text, text.size() * 2).second; }

std::string cut_to_width(std::string_view text, std::size_t width) {
  if (display_width(text) <= width) return without_controls(text);
  return without_controls(text.substr(0, front_of_width(text, width - 1).first)) + "…";
}

std::vector<std::string> wrapped(std::string_view text, std::size_t width) {
  std::vector<std::string> lines(1);
  while (!text.empty()) {
    const std::size_t space = text.find(' ');
    const std::string_view word = text.substr(0, space);
    std::string& line = lines.back();
    if (line.empty())
      line = without_controls(word);
    else if (display_width(line) + 1 + display_width(word) <= width)
      line.append(" ").append(without_controls(word));
    else
      lines.push_back(without_controls(word));
    text = space == std::string_view::npos ? std::string_view{} : text.substr(space + 1);
  }
  return lines;
}

}  // namespace pear::output
