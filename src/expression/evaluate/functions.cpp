#include "expression/evaluate/functions.hpp"

#include <algorithm>
#include <array>

#include <date/date.h>
#include <date/iso_week.h>
#include <unicode/bytestream.h>
#include <unicode/casemap.h>
#include <unicode/stringoptions.h>

#include "base/date.hpp"
#include "base/decimal.hpp"

namespace pear::expression {
namespace {

bool is_continuation(char c) { return (static_cast<unsigned char>(c) & 0xC0U) == 0x80U; }

/// Bytes of the character that begins at `at`.
std::size_t character_size(std::string_view text, std::size_t at) {
  std::size_t size = 1;
  while (at + size < text.size() && is_continuation(text[at + size])) ++size;
  return size;
}

std::int64_t characters(std::string_view text) {
  return std::count_if(text.begin(), text.end(), [](char c) { return !is_continuation(c); });
}

/// Characters [first, first + count) of the text, first counted from 1 as SQL does.
std::string_view part_of(std::string_view text, std::int64_t first, std::int64_t count) {
  const std::int64_t last = first + count;  // one past the end
  std::int64_t number = 1;
  std::size_t begin = text.size();
  std::size_t end = text.size();
  for (std::size_t at = 0; at < text.size(); at += character_size(text, at), ++number) {
    if (number >= first && begin == text.size()) begin = at;
    if (number >= last) {
      end = at;
      break;
    }
  }
  return end > begin ? text.substr(begin, end - begin) : std::string_view{};
}

std::int64_t floored(std::int64_t units, std::int64_t step) {
  const std::int64_t rest = ((units % step) + step) % step;
  return units - rest;
}

/// To `places` decimals, half away from zero.
bool round_to(std::int64_t units, std::int64_t places, std::int64_t& rounded) {
  constexpr std::array<std::int64_t, 5> kSteps = {10'000, 1'000, 100, 10, 1};
  if (places < 0) return false;
  const std::int64_t step = kSteps.at(static_cast<std::size_t>(std::min<std::int64_t>(places, 4)));
  const Int128 half = units < 0 ? -step / 2 : step / 2;
  const Int128 wide = (static_cast<Int128>(units) + half) / step * step;
  rounded = static_cast<std::int64_t>(wide);
  return rounded == wide;
}

std::int64_t part_of_day(Op op, std::int64_t days) {
  const date::sys_days day{date::days{days}};
  if (op == Op::week_of) {
    const iso_week::year_weeknum_weekday week{day};
    return static_cast<std::int64_t>(static_cast<unsigned>(week.weeknum()));
  }
  const date::year_month_day civil{day};
  const auto month = static_cast<std::int64_t>(static_cast<unsigned>(civil.month()));
  switch (op) {
    case Op::year_of:
      return static_cast<int>(civil.year());
    case Op::quarter_of:
      return (month + 2) / 3;
    case Op::month_of:
      return month;
    default:
      return static_cast<std::int64_t>(static_cast<unsigned>(civil.day()));
  }
}

bool apply_to_number(Op op, const std::vector<Values>& args, std::size_t row, Values& result) {
  const std::int64_t units = args[0].numbers[row];
  std::int64_t& into = result.numbers[row];
  switch (op) {
    case Op::negate:
      into = -units;
      return true;
    case Op::absolute:
      into = units < 0 ? -units : units;
      return true;
    case Op::floor:
      into = floored(units, Decimal::kScale);
      return true;
    case Op::ceiling:
      into = -floored(-units, Decimal::kScale);
      return true;
    case Op::round:
      return round_to(units, args.size() > 1 ? args[1].numbers[row] / Decimal::kScale : 0, into);
    case Op::hour_of:
      into = units / 3600 * Decimal::kScale;
      return true;
    case Op::minute_of:
      into = units / 60 % 60 * Decimal::kScale;
      return true;
    default:
      into = part_of_day(op, units) * Decimal::kScale;
      return true;
  }
}

bool substring(const std::vector<Values>& args, std::size_t row, Values& result) {
  const std::int64_t first = args[1].numbers[row] / Decimal::kScale;
  const std::int64_t count = args.size() > 2 ? args[2].numbers[row] / Decimal::kScale
                                             : static_cast<std::int64_t>(args[0].texts[row].size()) -
                                                   std::min<std::int64_t>(first, 0) + 1;
  if (count < 0) return false;
  result.texts[row] = part_of(args[0].texts[row], first, count);
  return true;
}

/// A text without spaces around it; one that is empty has no value.
bool cast(Op op, const Values& value, std::size_t row, Values& result, TextArena& arena) {
  if (value.type == result.type) {
    if (op == Op::to_text)
      result.texts[row] = value.texts[row];
    else
      result.numbers[row] = value.numbers[row];
    return true;
  }
  if (op == Op::to_text) {
    result.texts[row] = arena.emplace_back(value_text(value, row));
    return true;
  }
  const std::string_view text = trimmed(value.texts[row]);
  if (text.empty()) {
    result.states[row] = ValueState::empty;
    return true;
  }
  if (op == Op::to_date) {
    const auto moment = parse_iso_moment(text);
    if (moment) result.numbers[row] = moment->date.days;
    return moment.has_value();
  }
  const auto number = Decimal::parse_rounded(text);
  if (number) result.numbers[row] = number->units();
  return number.has_value();
}

template <class Map>
std::string mapped(std::string_view text, Map map) {
  std::string result;
  icu::StringByteSink<std::string> sink(&result);
  UErrorCode status = U_ZERO_ERROR;
  map(icu::StringPiece(text.data(), static_cast<std::int32_t>(text.size())), sink, status);
  return U_SUCCESS(status) != 0 ? result : std::string(text);
}

/// Most texts are ASCII and need no library: letters from `from` to `from` + 25 move by `by`.
bool map_ascii(std::string& text, char from, int by) {
  for (char& c : text) {
    if (static_cast<unsigned char>(c) >= 0x80) return false;
    if (c >= from && c < from + 26) c = static_cast<char>(c + by);
  }
  return true;
}

}  // namespace

std::string to_lower(std::string_view text) {
  std::string plain(text);
  if (map_ascii(plain, 'A', 'a' - 'A')) return plain;
  return mapped(text, [](icu::StringPiece piece, icu::ByteSink& sink, UErrorCode& status) {
    icu::CaseMap::utf8ToLower("", 0, piece, sink, nullptr, status);
  });
}

std::string to_upper(std::string_view text) {
  std::string plain(text);
  if (map_ascii(plain, 'a', 'A' - 'a')) return plain;
  return mapped(text, [](icu::StringPiece piece, icu::ByteSink& sink, UErrorCode& status) {
    icu::CaseMap::utf8ToUpper("", 0, piece, sink, nullptr, status);
  });
}

std::string_view trimmed(std::string_view text) {
  constexpr std::string_view kNoBreak = "\xC2\xA0";
  const auto is_space = [](char c) { return c == ' ' || c == '\t' || c == '\r' || c == '\n'; };
  for (;;) {
    if (!text.empty() && is_space(text.front())) {
      text.remove_prefix(1);
    } else if (!text.empty() && is_space(text.back())) {
      text.remove_suffix(1);
    } else if (text.starts_with(kNoBreak)) {
      text.remove_prefix(2);
    } else if (text.ends_with(kNoBreak)) {
      text.remove_suffix(2);
    } else {
      return text;
    }
  }
}

bool is_like(std::string_view text, std::string_view pattern) {
  std::size_t t = 0, p = 0;
  std::size_t star = std::string_view::npos,
              resume = 0;  // the position of the last %, and how much text it may still take
  while (t < text.size()) {
    if (p < pattern.size() && pattern[p] == '%') {
      star = p++;
      resume = t;
    } else if (p < pattern.size() && pattern[p] == '_') {
      ++p;
      t += character_size(text, t);
    } else if (p < pattern.size() && pattern[p] == text[t]) {
      ++p;
      ++t;
    } else if (star != std::string_view::npos) {
      p = star + 1;
      resume += character_size(text, resume);
      t = resume;
    } else {
      return false;
    }
  }
  while (p < pattern.size() && pattern[p] == '%') ++p;
  return p == pattern.size();
}

bool apply_function(Op op, const std::vector<Values>& args, std::size_t row, Values& result,
                    TextArena& arena) {
  switch (op) {
    case Op::lower:
      result.texts[row] = arena.emplace_back(to_lower(args[0].texts[row]));
      return true;
    case Op::upper:
      result.texts[row] = arena.emplace_back(to_upper(args[0].texts[row]));
      return true;
    case Op::trim:
      result.texts[row] = trimmed(args[0].texts[row]);
      return true;
    case Op::concatenate:
      result.texts[row] = arena.emplace_back(std::string(args[0].texts[row]).append(args[1].texts[row]));
      return true;
    case Op::char_length:
      result.numbers[row] = characters(args[0].texts[row]) * Decimal::kScale;
      return true;
    case Op::like:
      result.numbers[row] = is_like(args[0].texts[row], args[1].texts[row]) ? 1 : 0;
      return true;
    case Op::substring:
      return substring(args, row, result);
    case Op::to_number:
    case Op::to_date:
    case Op::to_text:
      return cast(op, args[0], row, result, arena);
    default:
      return apply_to_number(op, args, row, result);
  }
}

}  // namespace pear::expression
