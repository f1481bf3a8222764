// What is handed on of a study's answers: report and workbook.
#pragma once

#include <string>
#include <vector>

#include "base/error.hpp"
#include "study/study.hpp"

namespace pear {

/// Writes FOLDER/report.html and FOLDER/report.md, the study's workbook where it wants one, and its templates
/// filled; the paths of what was written. Errors: io.
[[nodiscard]] OrError<std::vector<std::string>> deliver(const StudyAnswers& answers);

}  // namespace pear
