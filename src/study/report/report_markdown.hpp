// The report of a study as Markdown.
#pragma once

#include <string>

#include "study/study.hpp"

namespace pear::study {

/// The report page (report_page.hpp) as Markdown, with links to the figures' files.
[[nodiscard]] std::string render_report_markdown(const StudyAnswers& answers);

}  // namespace pear::study
