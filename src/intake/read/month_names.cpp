#include "intake/read/month_names.hpp"

#include <array>
#include <map>
#include <mutex>

#include <unicode/udat.h>
#include <unicode/uloc.h>
#include <unicode/ustring.h>

#include "base/ascii.hpp"
#include "expression/evaluate/functions.hpp"

namespace pear::intake {
namespace {

constexpr std::array<std::string_view, 12> kEnglish = {"Jan", "Feb", "Mar", "Apr", "May", "Jun",
                                                       "Jul", "Aug", "Sep", "Oct", "Nov", "Dec"};
using MonthNames =
    std::map<std::string, std::string_view, std::less<>>;  // in lower case, without points at the end

std::string plain_word(std::string_view word) {
  std::string plain = expression::to_lower(word);
  while (plain.ends_with('.')) plain.pop_back();
  return plain;
}

void add_names(UDateFormat* format, UDateFormatSymbolType kind, MonthNames& names) {
  for (std::int32_t month = 0; month < 12; ++month) {
    std::array<UChar, 64> wide{};
    UErrorCode status = U_ZERO_ERROR;
    const std::int32_t size = udat_getSymbols(format, kind, month, wide.data(), wide.size(), &status);
    std::array<char, 256> narrow{};
    u_strToUTF8(narrow.data(), narrow.size(), nullptr, wide.data(), size, &status);
    const std::string name = plain_word(narrow.data());
    const bool is_number = name.empty() || is_digit(name.front());
    if (U_SUCCESS(status) != 0 && !is_number)
      names.emplace(name, kEnglish.at(static_cast<std::size_t>(month)));
  }
}

MonthNames names_in(const std::string& language) {
  MonthNames names = {{"a.m", "AM"}, {"p.m", "PM"}, {"am", "AM"}, {"pm", "PM"}};
  UErrorCode status = U_ZERO_ERROR;
  UDateFormat* format = udat_open(UDAT_NONE, UDAT_SHORT, language.c_str(), nullptr, 0, nullptr, 0, &status);
  if (U_FAILURE(status) != 0) return names;
  for (const UDateFormatSymbolType kind :
       {UDAT_MONTHS, UDAT_SHORT_MONTHS, UDAT_STANDALONE_MONTHS, UDAT_STANDALONE_SHORT_MONTHS})
    add_names(format, kind, names);
  udat_close(format);
  if (language == "en") names.emplace("sept", "Sep");
  return names;
}

const MonthNames& known_names(const std::string& language) {
  static std::mutex mutex;
  static std::map<std::string, MonthNames> known;
  const std::lock_guard lock(mutex);
  const auto found = known.find(language);
  return found != known.end() ? found->second : known.emplace(language, names_in(language)).first->second;
}

/// Whether a byte is part of a word: a letter, or part of one beyond ASCII.
bool is_letter_byte(char c) {
  return static_cast<unsigned char>(c) >= 0x80 || (c >= 'a' && c <= 'z') || (c >= 'A' && c <= 'Z');
}

}  // namespace

std::string with_english_months(std::string_view text, const std::string& language) {
  const MonthNames& names = known_names(language);
  std::string result;
  for (std::size_t at = 0; at < text.size();) {
    std::size_t end = at;
    while (end < text.size() && (is_letter_byte(text[end]) || (end > at && text[end] == '.'))) ++end;
    if (end == at) {
      result += text[at++];
      continue;
    }
    const auto found = names.find(plain_word(text.substr(at, end - at)));
    result += found == names.end() ? text.substr(at, end - at) : found->second;
    at = end;
  }
  return result;
}

std::string_view language_of_month(std::string_view text) {
  constexpr std::string_view kLanguages[] = {"en", "de", "fr", "nl", "es", "it", "pt",
                                             "pl", "sv", "da", "nb", "fi", "cs", "hu"};
  static const MonthNames languages = [&] {
    MonthNames of_name;
    for (const std::string_view language : kLanguages)
      for (const auto& [name, month] : names_in(std::string(language)))
        if (month != "AM" && month != "PM") of_name.emplace(name, language);
    return of_name;
  }();
  for (std::size_t at = 0; at < text.size(); ++at) {
    std::size_t end = at;
    while (end < text.size() && is_letter_byte(text[end])) ++end;
    constexpr std::size_t kShortest = 3, kLongest = 24;  // bytes
    if (end - at >= kShortest && end - at <= kLongest) {
      const auto found = languages.find(plain_word(text.substr(at, end - at)));
      if (found != languages.end()) return found->second;
    }
    at = end;
  }
  return {};
}

bool is_language(const std::string& language) {
  for (std::int32_t i = 0; i < uloc_countAvailable(); ++i) {
    if (language == uloc_getAvailable(i)) return true;
  }
  return false;
}

}  // namespace pear::intake
