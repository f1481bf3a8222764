#include "intake/inspect/value_shape.hpp"

#include <algorithm>
#include <optional>
#include <vector>

#include <fmt/format.h>

#include "base/ascii.hpp"
#include "expression/evaluate/functions.hpp"
#include "intake/read/month_names.hpp"

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

/// Of a point and a comma, the last separates decimals; of several points or commas, none does.
double rough_value(std::string_view text, const NumberShape& shape) {
  const char last = shape.has_comma && (!shape.has_point || shape.comma_is_decimal) ? ',' : '.';
  const char decimal = std::count(text.begin(), text.end(), last) == 1 ? last : '\0';
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
  std::string half;  // of the day
  const std::string lower = expression::to_lower(text);
  for (const std::string_view ending : {"am", "pm", "a.m.", "p.m."}) {
    if (!lower.ends_with(ending)) continue;
    text.remove_suffix(ending.size());
    half = text.ends_with(' ') ? " ap" : "ap";
    if (text.ends_with(' ')) text.remove_suffix(1);
    break;
  }
  if (text.size() > 1 && text[1] == ':')
    return time_form("0" + std::string(text) + (half.empty() ? "" : half == "ap" ? "am" : " am"));
  const auto two = [&](std::size_t at) {
    return text.size() >= at + 2 && is_digit(text[at]) && is_digit(text[at + 1]);
  };
  if (!two(0) || text.size() < 5 || text[2] != ':' || !two(3)) return std::nullopt;
  if (text.size() == 5) return "hh:mm" + half;
  if (text[5] != ':' || !two(6) || (text.size() != 8 && text[8] != '.')) return std::nullopt;
  return "hh:mm:ss" + half;
}

/// What follows a date: empty, or a separator and a time of day; nothing for anything else.
std::optional<std::string> rest_form(std::string_view text) {
  if (text.empty()) return "";
  const std::size_t separator = text.starts_with(", ") ? 2 : 1;
  if (separator == 1 && text.front() != ' ' && text.front() != 'T') return std::nullopt;
  const auto time = time_form(text.substr(separator));
  if (!time) return std::nullopt;
  return std::string(text.substr(0, separator)) + *time;
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
  const auto after = rest_form(text.substr(parts.end));
  if (!after) return std::nullopt;
  const std::string& rest = *after;
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

bool is_letter(char c) {
  return !is_digit(c) && std::string_view(" .,-/:()%").find(c) == std::string_view::npos;
}

/// The form of a date whose month is at `at`, with its day and year before or after.
std::optional<DateShape> date_around_month(const std::string& english, std::size_t at, int month,
                                           std::string_view language) {
  DateShape shape;
  shape.language = language;
  int day = 0, year = 0;
  std::size_t i = 0;
  while (i < english.size() && (day == 0 || year == 0 || i <= at)) {
    const std::size_t begin = i;
    int number = 0;
    for (; i < english.size() && is_digit(english[i]) && i - begin < 5; ++i)
      number = number * 10 + (english[i] - '0');
    const std::size_t width = i - begin;
    if (i == at) {
      shape.form += "Mon";
      i += 3;
    } else if (width == 4 || (width == 2 && day > 0)) {
      shape.form += width == 4 ? "yyyy" : "yy";
      year = width == 4 ? number : 2000 + number;
    } else if (width > 0) {
      if (width > 2 || day > 0 || number < 1 || number > 31) return std::nullopt;
      shape.form += "dd";
      day = number;
    } else {
      if (is_letter(english[i])) return std::nullopt;
      shape.form += english[i++];
    }
  }
  const auto rest = rest_form(std::string_view(english).substr(std::min(i, english.size())));
  if (day == 0 || year == 0 || !rest) return std::nullopt;
  shape.form += *rest;
  shape.day_first = shape.month_first = (year * 100 + month) * 100 + day;
  return shape;
}

/// A date with the name of its month: "12. März 2024", "Mar 12, 2024", "12-Mar-24 14:30".
std::optional<DateShape> named_date_shape(std::string_view text) {
  constexpr std::string_view kMonths[] = {"Jan", "Feb", "Mar", "Apr", "May", "Jun",
                                          "Jul", "Aug", "Sep", "Oct", "Nov", "Dec"};
  constexpr std::size_t kShortest = 8, kLongest = 40;
  if (text.size() < kShortest || text.size() > kLongest ||
      text.find_first_of("0123456789") == std::string_view::npos)
    return std::nullopt;
  const std::string_view language = language_of_month(text);
  if (language.empty()) return std::nullopt;
  const std::string english = with_english_months(text, std::string(language));
  for (int month = 1; month <= 12; ++month) {
    const std::size_t at = english.find(kMonths[month - 1]);
    if (at != std::string::npos && (at == 0 || !is_letter(english[at - 1])))
      return date_around_month(english, at, month, language);
  }
  return std::nullopt;
}

}  // namespace

bool is_compact_date(std::string_view text) {
  if (text.size() != 8 || !std::all_of(text.begin(), text.end(), is_digit)) return false;
  const auto number = [&](std::size_t at, std::size_t size) {
    int value = 0;
    for (const char c : text.substr(at, size)) value = value * 10 + (c - '0');
    return value;
  };
  return number(0, 4) >= 1900 && number(0, 4) < 2100 && number(4, 2) >= 1 && number(4, 2) <= 12 &&
         number(6, 2) >= 1 && number(6, 2) <= 31;
}

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
  } else if (auto dressed = undress_number(text)) {
    if (const auto inner = number_shape(dressed->number)) {
      value.shape = Shape::number;
      value.number = *inner;
      value.is_dressed = true;
      value.dressing = std::move(dressed->dressing);
    }
  } else if (const auto named = named_date_shape(text)) {
    value.shape = Shape::date;
    value.date = *named;
  }
  return value;
}

std::vector<std::string> fitting_formats(std::string_view text) {
  if (is_compact_date(text)) return {"%Y%m%d"};
  const ValueShape shape = shape_of(text);
  if (shape.shape != Shape::date) return {};
  const DateShape& date = shape.date;
  if (date.form.find("??") == std::string::npos) return {format_of(date.form, true)};
  if (date.first_is_day || date.form.find('.') != std::string::npos) return {format_of(date.form, true)};
  if (date.second_is_day) return {format_of(date.form, false)};
  return {format_of(date.form, true), format_of(date.form, false)};
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
    if (take("hh:mm:ss ap", "%I:%M:%S %p") || take("hh:mm:ssap", "%I:%M:%S%p") ||
        take("hh:mm ap", "%I:%M %p") || take("hh:mmap", "%I:%M%p") || take("Mon", "%b"))
      continue;
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
