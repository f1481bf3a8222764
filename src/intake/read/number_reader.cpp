#include "intake/read/number_reader.hpp"

#include "base/ascii.hpp"
#include "intake/read/currency.hpp"

namespace pear::intake {
namespace {

constexpr std::string_view kMinus = "\u2212";  // not the hyphen

/// The length of the first of these that the text begins with; 0 if it begins with none.
template <std::size_t N>
std::size_t leading_one_of(std::string_view text, const std::string_view (&all)[N]) {
  for (const std::string_view each : all) {
    if (text.starts_with(each)) return each.size();
  }
  return 0;
}

}  // namespace

std::size_t leading_blank(std::string_view text) {
  const char first = text.empty() ? 'x' : text.front();
  if (first != ' ' && first != '\t' && first != '\xC2' && first != '\xE2') return 0;  // most bytes are not
  constexpr std::string_view kBlanks[] = {" ", "\t", "\u00A0", "\u202F", "\u2009", "\u2007"};
  return leading_one_of(text, kBlanks);
}

std::string_view without_blanks(std::string_view text) {
  while (const std::size_t bytes = leading_blank(text)) text.remove_prefix(bytes);
  for (bool any = true; any && !text.empty();) {
    any = false;
    for (std::size_t bytes = 1; bytes <= 3 && bytes <= text.size() && !any; ++bytes) {
      any = leading_blank(text.substr(text.size() - bytes)) == bytes;
      if (any) text.remove_suffix(bytes);
    }
  }
  return text;
}

std::size_t leading_separator(std::string_view text, std::string_view separator) {
  constexpr std::string_view kApostrophes[] = {"'", "\u2019", "\u02BC", "`"};
  if (separator == " ") return leading_blank(text);
  if (separator == "'") return leading_one_of(text, kApostrophes);
  return !separator.empty() && text.starts_with(separator) ? separator.size() : 0;
}

bool NumberReader::take_sign(std::string_view& text) {
  const auto take = [&](bool is_negative) {
    ++signs_;
    is_negative_ = is_negative;
    return true;
  };
  if (text.starts_with('-') || text.starts_with('+')) {
    const bool minus = text.front() == '-';
    text.remove_prefix(1);
    return take(minus);
  }
  if (text.starts_with(kMinus)) {
    text.remove_prefix(kMinus.size());
    return take(true);
  }
  if (format_.trailing_minus && text.ends_with('-')) {
    text.remove_suffix(1);
    return take(true);
  }
  if (format_.brackets && text.size() > 1 && text.front() == '(' && text.back() == ')') {
    text = text.substr(1, text.size() - 2);
    return take(true);
  }
  return false;
}

bool NumberReader::take_words(std::string_view& text) {
  if (format_.percent && !is_percent_ && text.ends_with('%')) {
    text.remove_suffix(1);
    return is_percent_ = true;
  }
  for (const std::string& word : format_.strip) {
    const bool front = text.starts_with(word);
    if (!front && !text.ends_with(word)) continue;
    front ? text.remove_prefix(word.size()) : text.remove_suffix(word.size());
    if (!currency_of(word).empty()) currency_ = word;
    return true;
  }
  return false;
}

bool NumberReader::undress(std::string_view& text) {
  text = without_blanks(text);
  if (text.empty()) return false;
  return take_sign(text) || take_words(text);
}

std::optional<std::string> NumberReader::plain(std::string_view text) const {
  std::string result;
  std::size_t group = 0, groups = 0;  // digits since the last separator, and separators
  bool is_fraction = false, any_short = false;
  while (!text.empty()) {
    const std::size_t separator = is_fraction ? 0 : leading_separator(text, format_.thousands);
    if (separator > 0) {
      if (group == 0 || group > 3 || (groups > 0 && group < 2)) return std::nullopt;
      any_short |= groups > 0 && group == 2;
      ++groups;
      group = 0;
      text.remove_prefix(separator);
      continue;
    }
    const char c = text.front();
    if (!is_fraction && c == format_.decimal) {
      if (groups > 0 && group != 3) return std::nullopt;
      result += '.';
      is_fraction = true;
    } else if (is_digit(c)) {
      result += c;
      ++group;
    } else {
      return std::nullopt;
    }
    text.remove_prefix(1);
  }
  if (groups > 0 && !is_fraction && group != 3) return std::nullopt;
  if (any_short && format_.thousands != ",") return std::nullopt;  // 12,34,567 is written with commas only
  return result;
}

tl::expected<Decimal, DecimalFault> NumberReader::read(std::string_view text) {
  currency_ = {};
  if (is_plain_) return Decimal::parse(text);
  signs_ = 0;
  is_negative_ = is_percent_ = false;
  if (text.empty()) return tl::unexpected(DecimalFault::empty);
  while (undress(text)) {
  }
  const auto digits = plain(text);
  if (!digits || signs_ > 1) return tl::unexpected(DecimalFault::not_a_number);
  auto number = Decimal::parse(*digits);
  if (!number) return number;
  std::int64_t units = number->units();
  if (is_percent_) {
    constexpr std::int64_t kHundred = 100;
    if (units % kHundred != 0) return tl::unexpected(DecimalFault::too_many_places);
    units /= kHundred;
  }
  return Decimal::from_units(is_negative_ ? -units : units);
}

}  // namespace pear::intake
