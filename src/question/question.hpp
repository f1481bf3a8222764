// The table of questions.
#pragma once

#include <functional>
#include <string>
#include <vector>

#include "base/error.hpp"
#include "daybook/daybook.hpp"
#include "question/option.hpp"
#include "result/result.hpp"

namespace pear {

/// A question with its options read.
struct PreparedQuestion {
  std::vector<std::string> columns;  ///< what it reads of a daybook
  /// Error: data, where the daybook cannot answer.
  std::function<OrError<Result>(const Daybook&)> ask;
};

/// One question: a row of the table. A new one is a file pair in this folder and a row in question.cpp.
struct Question {
  std::string name;
  std::string summary;                ///< one line, for the list of commands
  std::string description;            ///< what it answers, for its help
  std::vector<std::string> examples;  ///< command lines
  std::vector<OptionInfo> options;
  /// Reads the options. Error: usage, before anything is read or written.
  std::function<OrError<PreparedQuestion>(const OptionValues&)> prepare;
};

[[nodiscard]] const std::vector<Question>& questions();

}  // namespace pear
