// What has changed since an earlier run of a study.
#pragma once

#include <map>
#include <string>
#include <vector>

#include "analysis/question_input.hpp"
#include "base/error.hpp"
#include "study/study.hpp"

namespace pear::study {

/// The files of an earlier run in its folder.
struct EarlierAnswers {
  std::string folder;
  std::map<std::string, std::string> commands;        ///< by name of the question, from its trail
  std::map<std::string, std::string> last_dates;      ///< of their populations
  std::map<std::string, analysis::SideTable> tables;  ///< by stem of the file
};

/// Reads a folder with a datapackage.json of ours. Errors: io; data, if it is not one.
[[nodiscard]] OrError<EarlierAnswers> read_earlier(const std::string& folder);

/// Compares every table with the one of the same name: rows that are new, gone, higher or lower. Rows are
/// identified by their key: the first texts and dates that distinguish all rows, or the very first column.
/// They are compared by the first column of money, or else of counts, numbers or shares. Largest differences
/// first.
[[nodiscard]] result::Result compare(const StudyAnswers& now, const EarlierAnswers& earlier);

}  // namespace pear::study
