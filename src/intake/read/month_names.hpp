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

/// Whether a language has names of months that are known here.
[[nodiscard]] bool is_language(const std::string& language);

}  // namespace pear::intake
