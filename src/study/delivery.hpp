// What is handed on of a study's answers: report and workbook.
#pragma once

#include <string>
#include <vector>

#include "base/error.hpp"
#include "study/comparison.hpp"
#include "study/study.hpp"

namespace pear::study {

/// Sets the answers beside earlier ones, writes what changed as FOLDER/changes.csv and changes-TABLE.csv, and
/// puts it first among the answers. Errors: io.
[[nodiscard]] OrError<void> add_changes(StudyAnswers& answers, const EarlierAnswers& earlier);

/// Writes FOLDER/report.html and FOLDER/report.md of a whole study, the study's workbook where it wants one,
/// and its templates filled; the paths of what was written. Errors: io.
[[nodiscard]] OrError<std::vector<std::string>> deliver(const StudyAnswers& answers);

}  // namespace pear::study
