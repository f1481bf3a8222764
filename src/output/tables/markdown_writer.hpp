// A result as Markdown (CommonMark, with pipe tables).
#pragma once

#include <cstddef>
#include <string>
#include <string_view>
#include <vector>

#include "result/result.hpp"

namespace pear::output {

/// Text with Markdown characters escaped, without control characters; line breaks become spaces.
[[nodiscard]] std::string markdown_text(std::string_view text);

/// The first rows as a pipe table.
[[nodiscard]] std::string markdown_table(const result::Table& table, std::size_t rows);

/// The position of a result within a larger document.
struct MarkdownPlace {
  int level = 1;        ///< of its title
  std::string between;  ///< Markdown after the headline
};

/// Title, headline, population and selection, tables of up to `top` rows each, notes, checks. All text from
/// data is escaped.
[[nodiscard]] std::string render_markdown(const result::Result& result, const std::string& title,
                                          const std::string& selection, const std::string& stem,
                                          std::size_t top, const MarkdownPlace& place = {});

}  // namespace pear::output
