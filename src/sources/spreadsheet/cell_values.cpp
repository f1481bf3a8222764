#include "sources/spreadsheet/cell_values.hpp"

#include <algorithm>
#include <charconv>
#include <cmath>
#include <optional>

#include <fmt/format.h>

#include "base/ascii.hpp"
#include "base/date.hpp"

namespace pear::sources {
namespace {

std::optional<double> to_double(std::string_view text) {
  double value = 0;
  const auto [end, fault] = std::from_chars(text.data(), text.data() + text.size(), value);
  if (fault != std::errc() || end != text.data() + text.size() || !std::isfinite(value)) return std::nullopt;
  return value;
}

constexpr int kDigits = 15;

}  // namespace

CellFormat format_of_code(std::string_view code) {
  bool days = false, months = false, times = false;
  for (std::size_t at = 0; at < code.size() && code[at] != ';';
       ++at) {                                          // the first section is for positive numbers
    const char c = static_cast<char>(code[at] | 0x20);  // ASCII letters in lower case
    const auto skip_to = [&](char end) { at = std::min(code.find(end, at + 1), code.size()); };
    if (code[at] == '"') {
      skip_to('"');
    } else if (code[at] == '[') {  // a colour, a currency, or hours that may exceed 24
      times |= at + 1 < code.size() && (code[at + 1] | 0x20) == 'h';
      skip_to(']');
    } else if (code[at] == '\\' || code[at] == '_' || code[at] == '*') {
      ++at;
    } else if (c == 'y' || c == 'd') {
      days = true;
    } else if (c == 'm') {
      months = true;
    } else if (c == 'h' || c == 's') {
      times = true;
    } else if (c == 'g' && code.substr(at, 7) == "General") {
      at += 6;
    }
  }
  if (days || (months && !times)) return CellFormat::date;
  return times ? CellFormat::time : CellFormat::number;
}

CellFormat format_of_builtin(unsigned number) {
  const auto within = [&](unsigned first, unsigned last) { return number >= first && number <= last; };
  if (within(18, 21) || within(45, 47) || within(32, 35) || within(55, 56)) return CellFormat::time;
  if (within(14, 22) || within(27, 36) || within(50, 58)) return CellFormat::date;
  return CellFormat::number;
}

bool is_plain_number(std::string_view text) {
  if (text.empty() || text.size() > kDigits) return false;
  return std::all_of(text.begin(), text.end(), [](char c) { return is_digit(c) || c == '.' || c == '-'; });
}

std::string number_text(std::string_view number) {
  if (is_plain_number(number)) return std::string(number);
  const auto value = to_double(number);
  if (!value) return std::string(number);
  const double magnitude = std::abs(*value);
  const int whole = magnitude < 1 ? 1 : static_cast<int>(std::floor(std::log10(magnitude))) + 1;
  constexpr int kMostPlaces = 30;
  const int zeros = magnitude > 0 && magnitude < 1 ? static_cast<int>(-std::floor(std::log10(magnitude))) : 0;
  std::string text = fmt::format("{:.{}f}", *value, std::clamp(kDigits - whole + zeros, 0, kMostPlaces));
  if (text.find('.') != std::string::npos) {
    text.erase(text.find_last_not_of('0') + 1);
    if (text.back() == '.') text.pop_back();
  }
  return text == "-0" ? "0" : text;
}

std::string serial_text(std::string_view number, CellFormat format, bool from_1904) {
  constexpr double kLast = 2'958'466;              // 9999-12-31 and a day
  constexpr int k1900 = -25'569, k1904 = -24'107;  // days from 1970-01-01 to day 0
  constexpr int kSecondsADay = 86'400, kLeapDayThatNeverWas = 60;
  const auto value = to_double(number);
  if (!value || *value < 0 || *value >= kLast) return number_text(number);
  auto days = static_cast<std::int32_t>(*value);
  auto seconds = static_cast<std::int32_t>(std::lround((*value - days) * kSecondsADay));
  if (seconds == kSecondsADay) {
    ++days;
    seconds = 0;
  }
  const std::string time = fmt::format("{:02}:{:02}:{:02}", seconds / 3600, seconds / 60 % 60, seconds % 60);
  if (format == CellFormat::time && days == 0) return time;
  if (!from_1904 && days < kLeapDayThatNeverWas) ++days;
  const std::string date = to_text(Date{days + (from_1904 ? k1904 : k1900)});
  return seconds == 0 ? date : date + " " + time;
}

}  // namespace pear::sources
