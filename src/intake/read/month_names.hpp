// Names of months in many languages.
#pragma once

#include <string>
#include <string_view>

namespace pear::intake {

/// The text with the names of months, full or abbreviated, as English abbreviations ("12. März 2024" in
/// German becomes "12. Mar 2024", "3 déc. 2024" in French "3 Dec 2024"), and "a.m." as "AM". `language`: a
/// code of ISO 639; the text stays as it is if the language has no such names. Names come from ICU (Unicode
/// CLDR).
[[nodiscard]] std::string with_english_months(std::string_view text, const std::string& language);

/// The language of the first month's name in the text, of the fourteen that are tried, English first; empty
/// if it has none. For texts without one it costs a lookup for each word: there may be millions of ids and
/// names.
[[nodiscard]] std::string_view language_of_month(std::string_view text);

/// Whether a language has names of months that are known here.
[[nodiscard]] bool is_language(const std::string& language);

}  // namespace pear::intake
