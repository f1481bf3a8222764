#include "intake/clean/repeated_orders.hpp"

#include <cstdint>
#include <tuple>
#include <vector>

#include <absl/container/flat_hash_map.h>

#include "intake/clean/leave_out_rows.hpp"

namespace pear::intake {

bool ids_are_shared(const RawTable& table) {
  if (table.find(daybook::role::kCustomerId) == nullptr || table.find(daybook::role::kOrderId) == nullptr)
    return false;
  const auto& orders = table.texts(daybook::role::kOrderId).codes;
  const auto& customers = table.texts(daybook::role::kCustomerId).codes;
  absl::flat_hash_map<std::uint32_t, std::uint32_t> customer_of;
  for (std::size_t row = 0, source = 0; row < table.rows(); ++row) {
    while (row >= table.source_ends[source]) {
      ++source;
      customer_of.clear();
    }
    const auto [found, is_new] = customer_of.try_emplace(orders[row], customers[row]);
    if (!is_new && found->second != customers[row]) return true;
  }
  return false;
}

void replace_repeated_orders(RawTable& table, bool ids_are_shared, IntakeLog& log) {
  if (table.sources.size() < 2 || table.find(daybook::role::kOrderId) == nullptr) return;
  const auto& orders = table.texts(daybook::role::kOrderId).codes;
  const std::vector<std::uint32_t>* customers =
      ids_are_shared ? &table.texts(daybook::role::kCustomerId).codes : nullptr;
  using Key = std::tuple<std::size_t, std::uint32_t, std::uint32_t>;  // part, order, customer
  const auto key_of = [&](std::size_t row, std::size_t source) -> Key {
    return {table.sources[source].part, orders[row], customers == nullptr ? 0 : (*customers)[row]};
  };
  absl::flat_hash_map<Key, std::size_t> last_source;
  for (std::size_t row = 0, source = 0; row < table.rows(); ++row) {
    while (row >= table.source_ends[source]) ++source;
    last_source[key_of(row, source)] = source;
  }
  std::vector<std::uint8_t> stays(table.rows());
  for (std::size_t row = 0, source = 0; row < table.rows(); ++row) {
    while (row >= table.source_ends[source]) ++source;
    stays[row] = last_source[key_of(row, source)] == source ? 1 : 0;
  }
  exclude_rows(table, stays, "the order is in a later source again", log);
}

}  // namespace pear::intake
