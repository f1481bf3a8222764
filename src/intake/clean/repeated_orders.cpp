#include "intake/clean/repeated_orders.hpp"

#include <algorithm>

#include <absl/container/flat_hash_map.h>

#include "base/pair_key.hpp"
#include "intake/clean/leave_out_rows.hpp"

namespace pear::intake {

void replace_repeated_orders(RawTable& table, IntakeLog& log) {
  if (table.sources.size() < 2 || table.find(daybook::role::kOrderId) == nullptr) return;
  const auto& orders = table.texts(daybook::role::kOrderId).codes;
  const auto* customers = table.find(daybook::role::kCustomerId) == nullptr
                              ? nullptr
                              : &table.texts(daybook::role::kCustomerId).codes;
  const auto key_of = [&](std::size_t row) {
    return pair_key(orders[row], customers == nullptr ? 0 : (*customers)[row]);
  };
  absl::flat_hash_map<std::uint64_t, std::uint32_t> last_source;
  for (std::size_t row = 0, source = 0; row < table.rows(); ++row) {
    while (row >= table.source_ends[source]) ++source;
    last_source[key_of(row)] = static_cast<std::uint32_t>(source);
  }
  std::vector<std::uint8_t> stays(table.rows());
  for (std::size_t row = 0, source = 0; row < table.rows(); ++row) {
    while (row >= table.source_ends[source]) ++source;
    stays[row] = last_source[key_of(row)] == source ? 1 : 0;
  }
  exclude_rows(table, stays, "the order is in a later source again", log);
}

}  // namespace pear::intake
