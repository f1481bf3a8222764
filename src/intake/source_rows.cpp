#include "intake/source_rows.hpp"

#include <utility>

#include "intake/clean/computed_columns.hpp"
#include "intake/read/append_rows.hpp"

namespace pear::intake {

std::vector<ComputedColumn> computed_columns(const SourcePlan& plan, const OpenTable& opened) {
  std::vector<ComputedColumn> computed = plan.computed;
  if (opened.plans.front().has_price_from_amount)
    computed.push_back({std::string(daybook::role::kUnitPrice),
                        "CASE WHEN quantity = 0 THEN amount ELSE amount / quantity END"});
  return computed;
}

OrError<void> add_source_rows(const std::vector<ComputedColumn>& computed, std::size_t part, RawTable rows,
                              std::optional<RawTable>& all, IntakeLog& log) {
  PEAR_TRY(compute_columns(computed, rows, log));
  for (SourceAccount& source : rows.sources) source.part = part;
  if (all)
    append_rows(*all, std::move(rows));
  else
    all = std::move(rows);
  return {};
}

OrError<void> read_all(const TablePlan& plan, std::vector<OpenTable> opened, std::optional<RawTable>& all,
                       IntakeLog& log, std::vector<std::string>& notes) {
  for (std::size_t i = 0; i < opened.size(); ++i) {
    notes.insert(notes.end(), opened[i].notes.begin(), opened[i].notes.end());
    const std::vector<ComputedColumn> computed = computed_columns(plan.from[i], opened[i]);
    PEAR_ASSIGN(RawTable rows, read_table(std::move(opened[i]), log));
    unify_formats(plan.from[i], rows);
    PEAR_TRY(add_source_rows(computed, i, std::move(rows), all, log));
  }
  return {};
}

}  // namespace pear::intake
