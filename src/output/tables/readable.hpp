// Figures in readable form.
#pragma once

#include <optional>
#include <string>
#include <string_view>

#include "result/result.hpp"

namespace pear::output {

/// The text with U+FFFD instead of control characters, line breaks, marks that change the direction of text,
/// and bytes that are not UTF-8: they would command a terminal, disguise a name, or are not allowed in XML.
/// The characters of `kept` stay.
[[nodiscard]] std::string without_controls(std::string_view text, std::string_view kept = "");

/// A cell in readable form: thousands separators, shares in per cent, a dash for no value. The file contains
/// exact values.
[[nodiscard]] std::string readable_cell(const result::TableColumn& column, std::size_t row);

/// "1,203 customers, 5,017 orders, 16,020 lines (142 returns), 2022-01-03 to 2024-12-30"
/// With `whole`: "212 of 1,203 customers, ...".
[[nodiscard]] std::string readable_population(const result::Population& population,
                                              const std::optional<result::Population>& whole = std::nullopt,
                                              const std::string& currency = "");

/// The columns of a terminal that a text needs (one a character, without combining marks).
[[nodiscard]] std::size_t display_width(std::string_view text);

/// The text cut to a display width, ending in an ellipsis if it was cut; without characters that command a
/// terminal.
[[nodiscard]] std::string cut_to_width(std::string_view text, std::size_t width);

/// Lines of at most `width`, broken at spaces; a longer word has its own line. Without characters that
/// command a terminal.
[[nodiscard]] std::vector<std::string> wrapped(std::string_view text, std::size_t width);

}  // namespace pear::output
