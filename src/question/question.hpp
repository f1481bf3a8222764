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

/// One question: a row of the table. A new one is a file pair in this folder and a row in question.cpp.
struct Question {
  std::string name;
  std::string summary;      ///< one line, for the list of commands
  std::string description;  ///< what it answers, for its help
  std::vector<std::string> examples;  ///< command lines
  std::vector<OptionInfo> options;
  std::vector<std::string> columns;  ///< what it reads of a daybook
  /// Errors: usage, for values of options; data, where the daybook cannot answer.
  std::function<OrError<Result>(const Daybook&, const OptionValues&)> ask;
};

[[nodiscard]] const std::vector<Question>& questions();

}  // namespace pear
