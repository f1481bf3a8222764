// The report of a study as one HTML page, for readers who do not run commands.
#pragma once

#include <string>

#include "base/error.hpp"
#include "study/study.hpp"

namespace pear::study {

/// One self-contained HTML page: style, script and figures are in it, and all data is text. The same results
/// give the same bytes. Errors: io, if a figure that was drawn cannot be read.
[[nodiscard]] OrError<std::string> render_report_page(const StudyAnswers& answers);

}  // namespace pear::study
