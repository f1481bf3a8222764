#include "intake/line_collector.hpp"

#include <algorithm>
#include <utility>

#include "base/date.hpp"

namespace pear {
namespace {

template <class T>
void append(std::vector<T>& to, const std::vector<T>& from, std::size_t expected) {
  if (to.capacity() < expected) to.reserve(expected);
  to.insert(to.end(), from.begin(), from.end());
}

void append_codes(std::vector<std::uint32_t>& to, Dictionary& dictionary, const BatchTexts& batch,
                  std::size_t expected) {
  if (to.capacity() < expected) to.reserve(expected);
  std::vector<std::uint32_t> codes;
  codes.reserve(batch.texts.size());
  constexpr std::size_t kAhead = 8;
  for (std::size_t i = 0; i < batch.texts.size(); ++i) {
    if (i + kAhead < batch.texts.size()) dictionary.prefetch(batch.texts[i + kAhead]);
    codes.push_back(dictionary.code_of(batch.texts[i]));
  }
  for (const std::uint32_t code : batch.codes) to.push_back(code == kEmptyCode ? kEmptyCode : codes[code]);
}

void add_decimals(LineTable& table, std::string_view name, std::vector<std::int64_t> units,
                  std::vector<Level> levels) {
  if (units.empty()) return;
  table.columns.push_back(
      {{std::string(name), Level::line, DecimalValues{std::move(units)}}, std::move(levels)});
}

}  // namespace

std::uint32_t Dictionary::code_of(const HashedText& text) {
  const Probe probe{text.text, short_hash(text)};
  const auto next = static_cast<std::uint32_t>(texts_.size());
  const auto slot = slots_.lazy_emplace(probe, [&](const auto& make) { make(Slot{next, probe.hash}); });
  if (slot->code == next) texts_.push_back(text.text);
  return slot->code;
}

TextArray Dictionary::take() {
  slots_.clear();
  slots_.rehash(0);
  return std::exchange(texts_, {});
}

LineCollector::LineCollector(const HeaderMap& map)
    : map_(map), extra_texts_(map.extras.size()), extra_codes_(map.extras.size()) {}

void LineCollector::add(const LineBatch& batch, std::size_t expected_lines) {
  const std::size_t before = lines();
  append_codes(table_.customer, customers_, batch.customers, expected_lines);
  append_codes(table_.order, orders_, batch.orders, expected_lines);
  append_codes(table_.product, products_, batch.products, expected_lines);
  for (std::size_t i = 0; i < extra_codes_.size(); ++i)
    append_codes(extra_codes_[i], extra_texts_[i], batch.extras[i], expected_lines);
  append(table_.days, batch.days, expected_lines);
  append(table_.is_return, batch.is_return, expected_lines);
  append(quantities_, batch.quantities, expected_lines);
  append(unit_prices_, batch.unit_prices, expected_lines);
  append(amounts_, batch.amounts, expected_lines);
  if (map_.position(Role::unit_cost)) append(unit_costs_, batch.unit_costs, expected_lines);
  if (map_.position(Role::list_price)) append(list_prices_, batch.list_prices, expected_lines);
  if (!batch.any_time && table_.seconds.empty()) return;
  table_.seconds.resize(before, Moment::kNoTime);  // the lines before the first that has a time
  append(table_.seconds, batch.seconds, expected_lines);
}

LineTable LineCollector::take() {
  table_.customer_ids = customers_.take();
  table_.order_ids = orders_.take();
  table_.product_ids = products_.take();
  add_decimals(table_, role::kQuantity, std::move(quantities_), {});
  add_decimals(table_, role::kUnitPrice, std::move(unit_prices_), {});
  add_decimals(table_, role::kAmount, std::move(amounts_), {});
  add_decimals(table_, role::kUnitCost, std::move(unit_costs_), {Level::product});
  add_decimals(table_, role::kListPrice, std::move(list_prices_), {Level::product});
  for (std::size_t i = 0; i < extra_codes_.size(); ++i) {
    TextValues values{std::move(extra_codes_[i]), extra_texts_[i].take()};
    table_.columns.push_back({{map_.extras[i].name, Level::line, std::move(values)},
                              {Level::customer, Level::product, Level::order}});
  }
  return std::move(table_);
}

}  // namespace pear
