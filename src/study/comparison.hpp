// What changed since a study was asked before.
#pragma once

#include <map>
#include <string>
#include <vector>

#include "analysis/question_input.hpp"
#include "base/error.hpp"
#include "study/study.hpp"

namespace pear::study {

/// What an earlier run left in its folder.
struct EarlierAnswers {
  std::string folder;
  std::map<std::string, std::string> commands;        ///< by name of the question, from its trail
  std::map<std::string, std::string> last_dates;      ///< of their populations
  std::map<std::string, analysis::SideTable> tables;  ///< by stem of the file
};

/// Reads a folder that has a datapackage.json of ours. Errors: io; data, where it is none.
[[nodiscard]] OrError<EarlierAnswers> read_earlier(const std::string& folder);

/// Sets every table beside the one of the same name: rows that are new, gone, risen or fallen. Rows are known
/// by their key: the first texts and dates that tell all rows apart, or the very first column. They rise and
/// fall by the first column of money, or else of counts, numbers or shares. Largest differences first.
[[nodiscard]] result::Result compare(const StudyAnswers& now, const EarlierAnswers& earlier);

}  // namespace pear::study
