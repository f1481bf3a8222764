#include "intake/clean/latest_customer_rows.hpp"

#include <algorithm>

#include <fmt/format.h>

#include "base/natural_order.hpp"
#include "base/text.hpp"
#include "daybook/daybook.hpp"

namespace pear::intake {
namespace {

void log_changes(const RawTable& customers, std::size_t older, std::size_t newest,
                 std::vector<ChangedCustomer>& changes) {
  for (const RawColumn& column : customers.columns) {
    std::string before = daybook::value_text(column.values, older);
    std::string after = daybook::value_text(column.values, newest);
    if (before == after) continue;
    changes.push_back({daybook::value_text(customers.find(daybook::role::kCustomerId)->values, newest),
                       column.name, std::move(before), std::move(after),
                       customers.sources[customers.source_of(older)].record.name, customers.lines[older]});
  }
}

}  // namespace

OrError<std::vector<ChangedCustomer>> keep_newest_customers(RawTable& customers,
                                                            const std::string& latest_by) {
  const RawColumn* age = latest_by.empty() ? nullptr : customers.find(latest_by);
  if (age == nullptr && !latest_by.empty()) {
    std::vector<std::string> names;
    for (const RawColumn& column : customers.columns) names.push_back(column.name);
    return data_error(fmt::format("[customers] latest_by names {}, but customers has no such column.{}",
                                  in_quotes(latest_by), did_you_mean(latest_by, names)));
  }
  const daybook::TextValues& ids = customers.texts(daybook::role::kCustomerId);
  std::vector<std::uint32_t> newest(ids.dictionary.size(), daybook::kEmptyCode);
  for (std::uint32_t row = 0; row < customers.rows(); ++row) {
    std::uint32_t& so_far = newest[ids.codes[row]];
    const bool is_older =
        so_far != daybook::kEmptyCode && age != nullptr &&
        natural_compare(daybook::value_text(age->values, row), daybook::value_text(age->values, so_far)) < 0;
    if (!is_older) so_far = row;
  }
  std::vector<ChangedCustomer> changes;
  std::vector<std::uint8_t> stays(customers.rows(), 1);
  for (std::uint32_t row = 0; row < customers.rows(); ++row) {
    const std::uint32_t winner = newest[ids.codes[row]];
    if (winner == row) continue;
    stays[row] = 0;
    log_changes(customers, row, winner, changes);
    SourceAccount& account = customers.sources[customers.source_of(row)];
    ++account.record.rows_duplicate;
    --account.record.rows_kept;
  }
  customers.keep(stays);
  return changes;
}

}  // namespace pear::intake
