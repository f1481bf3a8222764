#include "intake/join/rows_without_lines.hpp"

#include <algorithm>
#include <set>

#include "daybook/daybook.hpp"
#include "intake/clean/customer_sample.hpp"

namespace pear::intake {
namespace {

daybook::MemberList unused_rows(TableKind kind, JoinedLines& lines, const RawColumn& ids,
                                std::uint32_t sample) {
  const bool is_customers = kind == TableKind::customers;
  daybook::MemberList list{is_customers ? daybook::Level::customer : daybook::Level::product, {}, {}, {}};
  std::vector<std::uint8_t> is_used(lines.table(kind)->rows());
  for (const std::uint32_t row : *lines.rows_of(kind))
    if (row != daybook::kNoMember) is_used[row] = 1;
  std::vector<const RawColumn*> columns;
  for (const JoinedColumn& column : lines.columns()) {
    if (column.table != kind || column.column == &ids || column.name == daybook::role::kCurrency) continue;
    columns.push_back(column.column);
    list.columns.push_back(column.name);
  }
  list.values.resize(columns.size());
  std::set<std::string, std::less<>> known;
  for (std::size_t row = 0; row < is_used.size(); ++row) {
    std::string id = daybook::value_text(ids.values, row);
    const bool is_outside = is_customers && sample > 0 && !is_in_sample(id, sample);
    if (is_used[row] != 0 || is_outside || id.empty() || !known.insert(id).second) continue;
    list.ids.push_back(id);
    for (std::size_t column = 0; column < columns.size(); ++column)
      list.values[column].push_back(daybook::value_text(columns[column]->values, row));
  }
  return list;
}

}  // namespace

std::vector<daybook::MemberList> rows_without_lines(const IntakePlan& plan, JoinedLines& lines) {
  std::vector<daybook::MemberList> lists;
  for (const auto& [kind, id] : {std::pair(TableKind::customers, daybook::role::kCustomerId),
                                 std::pair(TableKind::products, daybook::role::kProductId)}) {
    const auto& table = lines.table(kind);
    const bool is_joined_otherwise =
        std::any_of(plan.joins.begin(), plan.joins.end(),
                    [kind = kind](const auto& join) { return join.first.second == kind; });
    const RawColumn* ids = table && !is_joined_otherwise ? table->find(id) : nullptr;
    if (ids == nullptr) continue;
    daybook::MemberList list = unused_rows(kind, lines, *ids, plan.sample);
    if (!list.ids.empty()) lists.push_back(std::move(list));
  }
  return lists;
}

}  // namespace pear::intake
