// The documents of a study: report and workbook.
#pragma once

#include <string>
#include <vector>

#include "base/error.hpp"
#include "study/comparison.hpp"
#include "study/study.hpp"

namespace pear::study {

/// Compares the results with earlier ones, writes the changes as FOLDER/changes.csv and changes-TABLE.csv,
/// and puts them first among the results. Errors: io.
[[nodiscard]] OrError<void> add_changes(StudyAnswers& answers, const EarlierAnswers& earlier);

/// Writes FOLDER/report.html and FOLDER/report.md of a whole study, the study's workbook if it has one, and
/// its templates filled; returns the paths of the files. Errors: io.
[[nodiscard]] OrError<std::vector<std::string>> deliver(const StudyAnswers& answers);

}  // namespace pear::study
