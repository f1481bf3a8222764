#include "intake/clean/shared_values.hpp"

#include <map>
#include <utility>

#include <absl/container/flat_hash_map.h>

#include "base/hashed_text.hpp"
#include "base/text.hpp"
#include "expression/evaluate/functions.hpp"

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

std::vector<SharedValue> similar_ids(const daybook::Daybook& daybook) {
  const TextArray& ids = daybook.customer_ids();
  const auto folded = [&](std::uint32_t customer) {
    return expression::to_lower(expression::trimmed(ids[customer]));
  };
  absl::flat_hash_map<std::uint64_t, std::uint32_t> customers;
  std::vector<std::uint64_t> hashes;
  for (std::uint32_t customer = 0; customer < ids.size(); ++customer) {
    hashes.push_back(HashedText(folded(customer)).hash);
    ++customers[hashes.back()];
  }
  std::map<std::string, SharedValue> similar;
  for (std::uint32_t customer = 0; customer < ids.size(); ++customer) {
    if (customers.at(hashes[customer]) < 2) continue;
    const std::string id = folded(customer);
    SharedValue& value = similar[id];
    value.column = daybook::role::kCustomerId;
    value.value = id;
    value.customer_ids.push_back(in_quotes(ids[customer]));
  }
  std::vector<SharedValue> all;
  for (auto& [id, value] : similar)
    if (value.customer_ids.size() > 1) all.push_back(std::move(value));
  return all;
}

}  // namespace pear::intake
