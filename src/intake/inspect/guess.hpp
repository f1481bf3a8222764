// From the contents of columns to their probable roles.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "intake/inspect/profile.hpp"
#include "intake/plan/role.hpp"

namespace pear::intake {

struct GuessedColumn {
  std::string header;
  std::string name;  ///< a role, or the header in snake_case; empty for a column without either
  bool is_role = false;
  std::string why;  ///< of a role, or of the names of products or customers: why it was guessed
};

/// Something that only the user can know, and the possible lines of the intake file.
struct OpenQuestion {
  std::string text;
  std::string table;
  std::vector<std::string> answers;
  std::size_t source = 0;  ///< the first source of the table, among the profiles
};

/// One table of the future intake file.
struct GuessedTable {
  TableKind kind = TableKind::lines;
  std::vector<std::size_t> sources;  ///< positions among the profiles
  std::vector<GuessedColumn> columns;
  MomentFormat dates;  ///< without formats if dates are ISO 8601 or a question
  NumberFormat numbers;
  std::vector<std::string> trim, fold_case;  ///< names
  std::string repeated_orders = {};  ///< why a later source replaces orders of an earlier one; empty if not
};

struct Guess {
  std::vector<GuessedTable> tables;  ///< by kind; several of one kind if systems write it in different ways
  std::vector<std::size_t> unused;   ///< sources that were not recognised
  std::vector<OpenQuestion> questions;
  std::vector<std::string> missing;  ///< roles that an import needs and no column seems to play
};

/// Guesses the table of each source, and the roles of its columns: from names, from the form of the values,
/// from how columns depend on one another, and from values that two sources share.
[[nodiscard]] Guess guess_tables(const std::vector<SourceProfile>& profiles);

}  // namespace pear::intake
