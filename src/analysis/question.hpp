// The table of questions.
#pragma once

#include <functional>
#include <optional>
#include <string>
#include <vector>

#include "analysis/option.hpp"
#include "analysis/question_input.hpp"
#include "base/error.hpp"
#include "expression/syntax/tree.hpp"
#include "result/result.hpp"

namespace pear::analysis {

/// An expression, and the option that it was given for.
struct GivenExpression {
  std::string option;
  expression::Tree tree;
  std::vector<std::string> names;  ///< that it may use beside those of columns
};

/// A question with its options read.
struct PreparedQuestion {
  std::vector<std::string> columns;      ///< what it reads of a daybook
  std::vector<std::string> where_there;  ///< what it reads where the daybook has it
  std::optional<daybook::Level> level;   ///< all columns of which it reads
  std::vector<GivenExpression> trees;    ///< and what its expressions read
  bool where_chooses_customers = false;  ///< --where leaves the daybook whole: see Asked
  /// Errors: usage, where an expression does not fit the columns; data, where the daybook cannot answer.
  std::function<OrError<result::Result>(QuestionInput)> ask;
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
  std::string word = {};        ///< the option that may be given as the first word; none where empty
  std::size_t rows_shown = 10;  ///< of a table on a terminal, unless --top says otherwise
};

}  // namespace pear::analysis
