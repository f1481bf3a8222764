#include "intake/shared_values.hpp"

#include <algorithm>
#include <map>

#include "expression/functions.hpp"

namespace pear {

std::vector<SharedValue> shared_values_of(const Daybook& daybook, std::string_view name) {
  const Column* column = daybook.find(name);
  if (column == nullptr || column->level != Level::customer) return {};
  const auto* texts = std::get_if<TextValues>(&column->values);
  if (texts == nullptr) return {};
  std::vector<std::vector<std::uint32_t>> customers(texts->dictionary.size());
  for (std::uint32_t customer = 0; customer < daybook.customers(); ++customer) {
    if (texts->codes[customer] != kEmptyCode) customers[texts->codes[customer]].push_back(customer);
  }
  std::map<std::string, std::pair<std::string, std::vector<std::uint32_t>>> by_folded;
  for (std::size_t code = 0; code < customers.size(); ++code) {
    auto& [value, together] = by_folded[to_lower(trimmed(texts->dictionary[code]))];
    if (value.empty()) value = texts->dictionary[code];
    together.insert(together.end(), customers[code].begin(), customers[code].end());
  }
  std::vector<SharedValue> shared;
  for (auto& [folded, found] : by_folded) {
    if (found.second.size() < 2) continue;
    std::sort(found.second.begin(), found.second.end());
    SharedValue value{std::string(name), found.first, {}};
    for (const std::uint32_t customer : found.second)
      value.customer_ids.emplace_back(daybook.customer_ids()[customer]);
    shared.push_back(std::move(value));
  }
  return shared;
}

}  // namespace pear
