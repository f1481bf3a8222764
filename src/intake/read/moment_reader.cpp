#include "intake/read/moment_reader.hpp"

#include <algorithm>
#include <charconv>
#include <cmath>
#include <sstream>

#include <date/date.h>
#include <fmt/format.h>

#include "base/ascii.hpp"
#include "base/text.hpp"
#include "intake/read/month_names.hpp"

namespace pear::intake {
namespace {

tl::expected<Moment, DateFault> parse_serial(std::string_view text) {
  constexpr std::int32_t kDayZero = -25'569;  // 1899-12-30, from 1970-01-01
  constexpr double kLast = 2'958'466;         // the year 10000
  double days = 0;
  const auto [end, fault] = std::from_chars(text.data(), text.data() + text.size(), days);
  if (fault != std::errc() || end != text.data() + text.size() || !(days >= 1 && days < kLast))
    return tl::unexpected(DateFault::not_a_date);
  constexpr std::int32_t kSecondsADay = 86'400;
  Moment moment{{static_cast<std::int32_t>(days) + kDayZero}, Moment::kNoTime};
  const auto seconds = static_cast<std::int32_t>(std::lround((days - std::floor(days)) * kSecondsADay));
  if (seconds > 0) moment.second_of_day = std::min(seconds, kSecondsADay - 1);
  return moment;
}

/// Whether the format contains names of months or halves of the day.
bool has_words(std::string_view format) {
  for (const std::string_view code : {"%b", "%B", "%h", "%p"}) {
    if (format.find(code) != std::string_view::npos) return true;
  }
  return false;
}

}  // namespace

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
  if (format_.formats.empty()) {
    const auto moment = parse_iso_moment(text);
    if (moment) {
      last_text_ = text;
      last_ = *moment;
    }
    return moment;
  }
  if (const auto found = known_.find(text); found != known_.end()) return found->second;
  return known_.emplace(std::string(text), read_new(text)).first->second;
}

tl::expected<Moment, DateFault> MomentReader::read_new(std::string_view text) const {
  tl::expected<Moment, DateFault> moment = tl::unexpected(DateFault::empty);
  for (const std::string& format : format_.formats) {
    auto read = format == "%Y-%m-%d" ? parse_iso_moment(text)
                : format == kSerial  ? parse_serial(text)
                : has_words(format)  ? parse_moment(with_english_months(text, format_.language), format)
                                     : parse_moment(text, format);
    if (read) return read;
    const bool better = moment.error() == DateFault::empty ||
                        (moment.error() == DateFault::not_a_date && read.error() == DateFault::no_such_day);
    if (better) moment = std::move(read);
  }
  return moment;
}

std::string MomentReader::describe(DateFault fault) const {
  if (fault != DateFault::not_a_date || format_.formats.empty()) return std::string(pear::describe(fault));
  return fmt::format("is not a date ({})", join(format_.formats, " or "));
}

}  // namespace pear::intake
