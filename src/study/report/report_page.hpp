// The report of a study as one HTML page, for people who read and do not run commands.
#pragma once

#include <string>

#include "base/error.hpp"
#include "study/study.hpp"

namespace pear::study {

/// One HTML page that needs nothing else: style, script and figures are in it, all data is text. The same
/// answers give the same bytes. Errors: io, where a figure that was drawn cannot be read.
[[nodiscard]] OrError<std::string> render_report_page(const StudyAnswers& answers);

}  // namespace pear::study
