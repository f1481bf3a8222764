// The report of a study, for people who read and do not run commands.
#pragma once

#include <string>

#include "base/error.hpp"
#include "study/study.hpp"

namespace pear::study {

/// One HTML page that needs nothing else: style, script and figures are in it, all data is text. The same
/// answers give the same bytes. Errors: io, where a figure that was drawn cannot be read.
[[nodiscard]] OrError<std::string> render_report_page(const StudyAnswers& answers);

/// The same as Markdown, with links to the figures' files.
[[nodiscard]] std::string render_report_markdown(const StudyAnswers& answers);

/// A drawing of gnuplot as part of an HTML page, with a text in its place for those who do not see it; ids
/// within begin with `prefix`, so that several stand in one page. Errors: io.
[[nodiscard]] OrError<std::string> inline_svg(const std::string& path, const result::Figure& figure,
                                              const std::string& prefix);

/// The first rows of a table as an HTML table, with the columns that say most where there are many.
[[nodiscard]] std::string render_html_table(const result::Table& table, std::size_t rows);

}  // namespace pear::study
