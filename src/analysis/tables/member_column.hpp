// Columns of a daybook as columns of a table.
#pragma once

#include <cstdint>
#include <string>
#include <vector>

#include "daybook/daybook.hpp"
#include "expression/aggregate/grouping.hpp"
#include "expression/rows/line_view.hpp"
#include "expression/syntax/tree.hpp"
#include "result/table.hpp"

namespace pear::analysis {

/// The values that these members have, one a row; empty for kNoMember. Money is recognised by the name.
[[nodiscard]] result::TableColumn member_column(std::string name, std::string description,
                                                const daybook::ColumnValues& values,
                                                const std::vector<std::uint32_t>& members);

/// Ids or other texts by position.
[[nodiscard]] result::TableColumn id_column(std::string_view name, std::string description,
                                            const TextArray& ids, std::vector<std::uint32_t> members);

/// The labels of these codes of a key.
[[nodiscard]] result::TableColumn key_column(std::string name, std::string description,
                                             const expression::GroupKey& key,
                                             std::vector<std::uint32_t> codes);

/// "region" for what is said of each customer: the value of an expression by member of a level. Errors:
/// usage, where the expression is not settled by a member of the level.
[[nodiscard]] OrError<daybook::ColumnValues> values_by_member(const std::string& option,
                                                              const expression::Tree& tree,
                                                              daybook::Level level,
                                                              const expression::LineView& lines);

/// Behind a column with the codes of a key of products or customers: their names, where the daybook has
/// loaded them.
void add_names(const daybook::Daybook& daybook, const expression::GroupKey& key,
               const std::vector<std::uint32_t>& codes, std::vector<result::TableColumn>& columns);

/// "P43 Starter kit" where there are names, "P43" otherwise.
[[nodiscard]] std::string label_with_name(const daybook::Daybook& daybook, const expression::GroupKey& key,
                                          std::uint32_t code);

/// Adds a column for each of the expressions that `--with` names, which must be of customers. Errors: as
/// above.
[[nodiscard]] OrError<std::vector<result::TableColumn>> customer_columns(
    const std::vector<expression::Tree>& with, const std::vector<std::uint32_t>& customers,
    const expression::LineView& lines);

/// The ids of customers, products or orders as a key: each member has a code of its own. Orders are
/// distinguished by customer and id.
[[nodiscard]] expression::GroupKey id_key(const daybook::Daybook& daybook, daybook::Level level);

/// The keys of expressions. `option` is named in errors.
[[nodiscard]] OrError<std::vector<expression::GroupKey>> keys_of(const std::string& option,
                                                                 const std::vector<expression::Tree>& trees,
                                                                 const expression::LineView& lines);

}  // namespace pear::analysis
