#include "intake/read/cell_format.hpp"

#include <algorithm>
#include <optional>
#include <sstream>

#include <date/date.h>
#include <fmt/format.h>

#include "base/ascii.hpp"
#include "base/text.hpp"

namespace pear::intake {
namespace {

/// The text without its thousands separators and with a decimal point; nothing if they are in the wrong
/// places.
std::optional<std::string> plain_number(std::string_view text, const NumberFormat& format) {
  std::string plain;
  std::size_t group = 0;  // digits since the last separator
  bool grouped = false, fraction = false;
  for (const char c : text) {
    if (!fraction && c == format.decimal) {
      if (grouped && group != 3) return std::nullopt;
      plain += '.';
      fraction = true;
    } else if (!fraction && format.thousands && c == *format.thousands) {
      if (group == 0 || group > 3 || (grouped && group != 3)) return std::nullopt;
      grouped = true;
      group = 0;
    } else {
      if (c == '.') return std::nullopt;  // neither of the two
      plain += c;
      if (is_digit(c)) ++group;
    }
  }
  if (grouped && !fraction && group != 3) return std::nullopt;
  return plain;
}

}  // namespace

tl::expected<Decimal, DecimalFault> parse_number(std::string_view text, const NumberFormat& format) {
  if (format.decimal == '.' && !format.thousands) return Decimal::parse(text);
  const auto plain = plain_number(text, format);
  if (!plain) return tl::unexpected(DecimalFault::not_a_number);
  return Decimal::parse(*plain);
}

tl::expected<Moment, DateFault> parse_moment(std::string_view text, const std::string& format) {
  if (text.empty()) return tl::unexpected(DateFault::empty);
  std::istringstream in{std::string(text)};
  in.imbue(std::locale::classic());
  ::date::fields<std::chrono::seconds> fields;
  ::date::from_stream(in, format.c_str(), fields);
  if (in.fail()) {
    // A format that fits except for the day: the parts are digits where the format has its codes.
    const bool digits = std::count_if(text.begin(), text.end(), is_digit) >= 4;
    const bool same_signs = std::all_of(
        text.begin(), text.end(), [&](char c) { return is_digit(c) || format.find(c) != std::string::npos; });
    return tl::unexpected(digits && same_signs ? DateFault::no_such_day : DateFault::not_a_date);
  }
  if (in.peek() != std::char_traits<char>::eof()) return tl::unexpected(DateFault::not_a_date);
  if (!fields.ymd.ok()) return tl::unexpected(DateFault::no_such_day);
  const int year = static_cast<int>(fields.ymd.year());
  if (year < 1000 || year > 9999) return tl::unexpected(DateFault::no_such_day);
  Moment moment;
  moment.date.days = static_cast<std::int32_t>(::date::sys_days{fields.ymd}.time_since_epoch().count());
  if (fields.has_tod && format.find_first_of("HIRTX") != std::string::npos)
    moment.second_of_day = static_cast<std::int32_t>(fields.tod.to_duration().count());
  return moment;
}

tl::expected<Moment, DateFault> MomentReader::read(std::string_view text) {
  if (!text.empty() && text == last_text_) return last_;  // exports are usually in order of time
  if (formats_.empty()) {
    const auto moment = parse_iso_moment(text);
    if (moment) {
      last_text_ = text;
      last_ = *moment;
    }
    return moment;
  }
  if (const auto found = known_.find(text); found != known_.end()) return found->second;
  tl::expected<Moment, DateFault> moment = tl::unexpected(DateFault::empty);
  for (const std::string& format : formats_) {
    auto read = format == "%Y-%m-%d" ? parse_iso_moment(text) : parse_moment(text, format);
    const bool better = read || moment.error() == DateFault::empty ||
                        (moment.error() == DateFault::not_a_date && read.error() == DateFault::no_such_day);
    if (better) moment = std::move(read);
    if (moment) break;
  }
  return known_.emplace(std::string(text), moment).first->second;
}

std::string MomentReader::describe(DateFault fault) const {
  if (fault != DateFault::not_a_date || formats_.empty()) return std::string(pear::describe(fault));
  return fmt::format("is not a date ({})", join(formats_, " or "));
}

}  // namespace pear::intake
