#include "intake/inspect/value_shape.hpp"

#include <algorithm>
#include <optional>
#include <vector>

#include <fmt/format.h>

#include "base/ascii.hpp"

namespace pear::intake {
namespace {

/// Thousands separators must be followed by groups of three digits.
bool is_grouped(std::string_view text, char separator) {
  std::size_t at = text.find(separator);
  if (at == 0 || at > 3) return false;
  while (at != std::string_view::npos) {
    const std::size_t next = text.find_first_of(".,", at + 1);
    if (std::min(next, text.size()) - at != 4) return false;
    at = next == std::string_view::npos || text[next] != separator ? std::string_view::npos : next;
  }
  return true;
}

double rough_value(std::string_view text, const NumberShape& shape) {
  const char decimal = shape.comma_is_decimal || (shape.has_comma && !shape.has_point) ? ',' : '.';
  double value = 0, scale = 0;
  for (const char c : text) {
    if (is_digit(c)) {
      value = value * 10 + (c - '0');
      scale *= 10;
    } else if (c == decimal) {
      scale = 1;
    }
  }
  if (scale > 0) value /= scale;
  return shape.negative ? -value : value;
}

std::optional<NumberShape> number_shape(std::string_view text) {
  NumberShape shape;
  if (text.starts_with('-') || text.starts_with('+')) {
    shape.negative = text.front() == '-';
    text.remove_prefix(1);
  }
  const auto digits = std::count_if(text.begin(), text.end(), is_digit);
  const auto points = std::count(text.begin(), text.end(), '.');
  const auto commas = std::count(text.begin(), text.end(), ',');
  const bool others = digits + points + commas != static_cast<std::ptrdiff_t>(text.size());
  if (digits == 0 || others || (points > 1 && commas > 1) || !is_digit(text.back())) return std::nullopt;
  if ((points > 1 && !is_grouped(text, '.')) || (commas > 1 && !is_grouped(text, ','))) return std::nullopt;
  shape.has_point = points > 0;
  shape.has_comma = commas > 0;
  shape.leading_zero = text.size() > 1 && text[0] == '0' && is_digit(text[1]);
  const std::size_t point = text.rfind('.');
  const std::size_t comma = text.rfind(',');
  if (points > 0 && commas > 0) {
    shape.point_is_decimal = point > comma;
    shape.comma_is_decimal = comma > point;
  } else if (points == 1) {
    shape.point_is_decimal = text.size() - point - 1 != 3 || point > 3 || point == 0;
  } else if (commas == 1) {
    shape.comma_is_decimal = text.size() - comma - 1 != 3 || comma > 3 || comma == 0;
  }
  shape.value = rough_value(text, shape);
  return shape;
}

/// "14:05", "14:05:59": the form of a time of day; nothing for anything else.
std::optional<std::string> time_form(std::string_view text) {
  const auto two = [&](std::size_t at) {
    return text.size() >= at + 2 && is_digit(text[at]) && is_digit(text[at + 1]);
  };
  if (!two(0) || text.size() < 5 || text[2] != ':' || !two(3)) return std::nullopt;
  if (text.size() == 5) return "hh:mm";
  if (text[5] != ':' || !two(6) || (text.size() != 8 && text[8] != '.')) return std::nullopt;
  return "hh:mm:ss";
}

struct Parts {
  std::vector<int> numbers;
  std::vector<std::size_t> widths;
  std::string separators;
  std::size_t end = 0;
};

Parts leading_parts(std::string_view text) {
  Parts parts;
  std::size_t at = 0;
  while (parts.numbers.size() < 3 && at < text.size() && is_digit(text[at])) {
    int number = 0;
    const std::size_t begin = at;
    for (; at < text.size() && is_digit(text[at]) && at - begin < 8; ++at)
      number = number * 10 + (text[at] - '0');
    parts.numbers.push_back(number);
    parts.widths.push_back(at - begin);
    parts.end = at;
    const bool separator = at < text.size() && (text[at] == '-' || text[at] == '.' || text[at] == '/');
    if (!separator || parts.numbers.size() == 3) break;
    parts.separators += text[at++];
  }
  return parts;
}

std::optional<DateShape> date_shape(std::string_view text) {
  const Parts parts = leading_parts(text);
  if (parts.numbers.size() != 3 || parts.separators[0] != parts.separators[1]) return std::nullopt;
  std::string rest;
  if (parts.end < text.size()) {
    const auto time = time_form(text.substr(parts.end + 1));
    if (!time || (text[parts.end] != ' ' && text[parts.end] != 'T')) return std::nullopt;
    rest = text[parts.end] + *time;
  }
  const char separator = parts.separators[0];
  const auto small = [&](std::size_t i) {
    return parts.widths[i] <= 2 && parts.numbers[i] >= 1 && parts.numbers[i] <= 31;
  };
  DateShape shape;
  if (parts.widths[0] == 4 && small(1) && small(2)) {
    shape.form = fmt::format("yyyy{0}mm{0}dd{1}", separator, rest);
    shape.day_first = shape.month_first =
        (parts.numbers[0] * 100 + parts.numbers[1]) * 100 + parts.numbers[2];
    return shape;
  }
  if (!small(0) || !small(1) || (parts.widths[2] != 4 && parts.widths[2] != 2)) return std::nullopt;
  shape.form = fmt::format("??{0}??{0}{1}{2}", separator, parts.widths[2] == 4 ? "yyyy" : "yy", rest);
  shape.first_is_day = parts.numbers[0] > 12;
  shape.second_is_day = parts.numbers[1] > 12;
  const int year = parts.widths[2] == 4 ? parts.numbers[2] : 2000 + parts.numbers[2];
  shape.day_first = (year * 100 + parts.numbers[1]) * 100 + parts.numbers[0];
  shape.month_first = (year * 100 + parts.numbers[0]) * 100 + parts.numbers[1];
  return shape;
}

}  // namespace

ValueShape shape_of(std::string_view text) {
  ValueShape value;
  if (text.empty()) {
    value.shape = Shape::empty;
  } else if (const auto number = number_shape(text)) {
    value.shape = Shape::number;
    value.number = *number;
  } else if (const auto date = date_shape(text)) {
    value.shape = Shape::date;
    value.date = *date;
  }
  return value;
}

std::string format_of(std::string_view form, bool day_first) {
  std::string format;
  bool first = true;
  for (std::size_t at = 0; at < form.size();) {
    const std::string_view rest = form.substr(at);
    const auto take = [&](std::string_view part, std::string_view code) {
      if (!rest.starts_with(part)) return false;
      format += code;
      at += part.size();
      return true;
    };
    if (take("yyyy", "%Y") || take("yy", "%y") || take("dd", "%d") || take("hh:mm:ss", "%H:%M:%S") ||
        take("hh:mm", "%H:%M") || take("mm", "%m"))
      continue;
    if (rest.starts_with("??")) {
      format += first == day_first ? "%d" : "%m";
      first = false;
      at += 2;
    } else {
      format += form[at++];
    }
  }
  return format;
}

}  // namespace pear::intake
