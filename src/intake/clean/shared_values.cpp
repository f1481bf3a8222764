#include "intake/clean/shared_values.hpp"

#include <map>
#include <utility>

#include <absl/container/flat_hash_map.h>

#include "expression/evaluate/functions.hpp"
#include "intake/read/hashed_text.hpp"

namespace pear::intake {

std::vector<SharedValue> shared_values_of(const daybook::Daybook& daybook, std::string_view name) {
  const daybook::Column* column = daybook.find(name);
  if (column == nullptr || column->level != daybook::Level::customer) return {};
  const auto* texts = std::get_if<daybook::TextValues>(&column->values);
  if (texts == nullptr) return {};
  // By hash first, because nearly all values belong to only one customer.
  const auto folded = [&](std::uint32_t code) {
    return expression::to_lower(expression::trimmed(texts->dictionary[code]));
  };
  std::vector<std::uint64_t> hashes;
  for (std::uint32_t code = 0; code < texts->dictionary.size(); ++code)
    hashes.push_back(HashedText(folded(code)).hash);
  absl::flat_hash_map<std::uint64_t, std::uint32_t> customers;
  for (const std::uint32_t code : texts->codes) {
    if (code != daybook::kEmptyCode) ++customers[hashes[code]];
  }
  std::map<std::string, SharedValue> shared;
  for (std::uint32_t customer = 0; customer < daybook.customers(); ++customer) {
    const std::uint32_t code = texts->codes[customer];
    if (code == daybook::kEmptyCode || customers.at(hashes[code]) < 2) continue;
    SharedValue& value = shared[folded(code)];
    value.column = name;
    if (value.value.empty()) value.value = texts->dictionary[code];
    value.customer_ids.emplace_back(daybook.customer_ids()[customer]);
  }
  std::vector<SharedValue> all;
  for (auto& [text, value] : shared) {
    if (value.customer_ids.size() > 1) all.push_back(std::move(value));
  }
  return all;
}

}  // namespace pear::intake
