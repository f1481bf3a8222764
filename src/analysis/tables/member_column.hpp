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

/// The values of these members, one a row; empty for kNoMember. Money is recognised by the column's name.
[[nodiscard]] result::TableColumn member_column(std::string name, std::string description,
                                                const daybook::ColumnValues& values,
                                                const std::vector<std::uint32_t>& members);

/// Whose ids a column of the daybook contains: customer_id and product_id.
[[nodiscard]] result::IdOf id_of(std::string_view column);

/// Ids or other texts by position.
[[nodiscard]] result::TableColumn id_column(std::string_view name, std::string description,
                                            const TextArray& ids, std::vector<std::uint32_t> members);

/// The labels of these codes of a key.
[[nodiscard]] result::TableColumn key_column(std::string name, std::string description,
                                             const expression::GroupKey& key,
                                             std::vector<std::uint32_t> codes);

/// The values of an expression by member of a level, such as "region" by customer. Errors: usage, if a member
/// of the level does not determine the expression.
[[nodiscard]] OrError<daybook::ColumnValues> values_by_member(const std::string& option,
                                                              const expression::Tree& tree,
                                                              daybook::Level level,
                                                              const expression::LineView& lines);

/// After a column with the codes of a key of products or customers: their names, if the daybook has loaded
/// them.
void add_names(const daybook::Daybook& daybook, const expression::GroupKey& key,
               const std::vector<std::uint32_t>& codes, std::vector<result::TableColumn>& columns);

/// "P43 Starter kit" if there are names, "P43" otherwise.
[[nodiscard]] std::string label_with_name(const daybook::Daybook& daybook, const expression::GroupKey& key,
                                          std::uint32_t code);

/// The ids of customers, products or orders as a key: each member has its own code. Orders are distinguished
/// by customer and id.
[[nodiscard]] expression::GroupKey id_key(const daybook::Daybook& daybook, daybook::Level level);

/// The keys of expressions. `option` is named in errors.
[[nodiscard]] OrError<std::vector<expression::GroupKey>> keys_of(const std::string& option,
                                                                 const std::vector<expression::Tree>& trees,
                                                                 const expression::LineView& lines);

}  // namespace pear::analysis
