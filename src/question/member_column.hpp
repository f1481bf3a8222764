// Columns of a daybook as columns of a table.
#pragma once

#include <cstdint>
#include <string>
#include <vector>

#include "daybook/daybook.hpp"
#include "expression/grouping.hpp"
#include "expression/line_view.hpp"
#include "expression/tree.hpp"
#include "result/table.hpp"

namespace pear {

/// The values that these members have, one a row; empty for kNoMember. Money is told by the name.
[[nodiscard]] TableColumn member_column(std::string name, std::string description, const ColumnValues& values,
                                        const std::vector<std::uint32_t>& members);

/// Ids or other texts by position.
[[nodiscard]] TableColumn id_column(std::string_view name, std::string description, const TextArray& ids,
                                    std::vector<std::uint32_t> members);

/// The labels of these codes of a key.
[[nodiscard]] TableColumn key_column(std::string name, std::string description, const GroupKey& key,
                                     std::vector<std::uint32_t> codes);

/// "region" for what is said of each customer: the value of an expression by member of a level. Errors:
/// usage, where the expression is not settled by a member of the level.
[[nodiscard]] OrError<ColumnValues> values_by_member(const std::string& option, const Tree& tree, Level level,
                                                     const LineView& lines);

/// Behind a column with the codes of a key of products or customers: their names, where the daybook has
/// loaded them.
void add_names(const Daybook& daybook, const GroupKey& key, const std::vector<std::uint32_t>& codes,
               std::vector<TableColumn>& columns);

/// "P43 Starter kit" where there are names, "P43" otherwise.
[[nodiscard]] std::string label_with_name(const Daybook& daybook, const GroupKey& key, std::uint32_t code);

/// Adds a column for each of the expressions that `--with` names, which must be of customers. Errors: as
/// above.
[[nodiscard]] OrError<std::vector<TableColumn>> customer_columns(const std::vector<Tree>& with,
                                                                 const std::vector<std::uint32_t>& customers,
                                                                 const LineView& lines);

/// The ids of customers, products or orders as a key: each member has a code of its own. Orders are told
/// apart by customer and id.
[[nodiscard]] GroupKey id_key(const Daybook& daybook, Level level);

/// The keys of expressions. `option` is named in errors.
[[nodiscard]] OrError<std::vector<GroupKey>> keys_of(const std::string& option,
                                                     const std::vector<Tree>& trees, const LineView& lines);

}  // namespace pear
