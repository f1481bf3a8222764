// The table of questions.
#pragma once

#include <functional>
#include <optional>
#include <string>
#include <vector>

#include "analysis/options/option.hpp"
#include "analysis/question_input.hpp"
#include "base/error.hpp"
#include "expression/syntax/tree.hpp"
#include "result/result.hpp"

namespace pear::analysis {

/// An expression, and the option that it was given for.
struct GivenExpression {
  std::string option;
  expression::Tree tree;
  std::vector<std::string> names;  ///< names that it may use in addition to columns
};

/// A question with its options read.
struct PreparedQuestion {
  std::vector<std::string> columns;      ///< columns that it always reads
  std::vector<std::string> where_there;  ///< columns that it reads if the daybook has them
  std::optional<daybook::Level> level;   ///< levels of which it reads all columns
  std::vector<GivenExpression> trees;    ///< and the columns that its expressions use
  /// A condition on lines that chooses customers and leaves the daybook whole: see chosen_customers.
  std::optional<expression::Tree> customers;
  /// Whether --quiet-since only chooses customers, too: a question that learns from what customers did
  /// afterwards would otherwise learn from those who did nothing.
  bool learns_from_all = false;
  /// Errors: usage, if an expression does not fit the columns; data, if the daybook cannot answer.
  std::function<OrError<result::Result>(QuestionInput)> ask;
};

/// One question: a row of the table of questions.
struct Question {
  std::string name;
  std::string summary;                ///< one line, for the list of commands
  std::string description;            ///< what it answers, for its help
  std::vector<std::string> examples;  ///< command lines
  std::vector<OptionInfo> options;
  /// Reads the options. Error: usage, before anything is read or written.
  std::function<OrError<PreparedQuestion>(const OptionValues&)> prepare;
  std::string word = {};        ///< the option that may be given as the first word; none if empty
  std::size_t rows_shown = 10;  ///< rows of a table on a terminal, unless --top is given
  bool arranges_rows = false;   ///< declares --having, --sort, --limit and --offset itself
};

}  // namespace pear::analysis
