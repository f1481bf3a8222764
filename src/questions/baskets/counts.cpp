#include "questions/baskets/counts.hpp"

#include <cmath>
#include <limits>
#include <utility>

#include "analysis/tables/member_column.hpp"
#include "result/table.hpp"
#include "statistics/significance.hpp"

namespace pear::baskets {

std::int64_t mean_units(const DecimalSum& sum, std::uint64_t count) {
  const auto mean = count == 0 ? std::nullopt : sum.mean(count);
  return mean ? mean->units() : result::kEmptyCell;
}

DecimalSum minus(const DecimalSum& a, const DecimalSum& b) {
  DecimalSum difference = a;
  if (const auto total = b.total()) difference.add(Decimal::from_units(-total->units()));
  return difference;
}

double rate_of(const DecimalSum& a, const DecimalSum& b) {
  return b == DecimalSum() ? std::numeric_limits<double>::quiet_NaN() : a.approximate() / b.approximate();
}

double Counts::margin_rate() const {
  BasketSum all;
  for (const BasketSum& each : facts.sums_by_size) all.add(each);
  return all.margin_rate();
}

std::int64_t Counts::companions_per_basket(std::uint32_t code) const {
  const PulledBaskets& each = facts.items[code];
  return mean_units(minus(each.whole, each.own_value), each.own.baskets);
}

bool Counts::pulls(std::uint32_t code) const {
  return q_values[code] <= statistics::kFalseDiscovery && facts.items[code].pull->low > 0;
}

bool Counts::is_candidate(std::uint32_t code) const {
  const PulledBaskets& each = facts.items[code];
  return pulls(code) && (!facts.has_costs || each.own.margin_rate() < margin_rate());
}

Discount::Discount(const PulledBaskets& item, std::int64_t per_cent) {
  const double sales = item.own.sales.approximate(), whole = item.whole.approximate();
  const double lost = sales * static_cast<double>(per_cent) / Decimal::kScale / 100;
  cost = std::llround(lost * Decimal::kScale);
  const auto count = static_cast<double>(item.own.baskets);
  if (whole > lost) baskets = static_cast<std::int64_t>(std::ceil(count * lost / (whole - lost) - 1e-9));
}

namespace {

/// Over the items with enough baskets.
std::vector<double> q_values_of(const std::vector<PulledBaskets>& items, std::int64_t at_least) {
  std::vector<double> p_values, by_item(items.size(), std::numeric_limits<double>::quiet_NaN());
  std::vector<std::size_t> tested;
  for (std::size_t item = 0; item < items.size(); ++item) {
    if (items[item].own.baskets < static_cast<std::uint64_t>(at_least) || !items[item].pull) continue;
    tested.push_back(item);
    p_values.push_back(items[item].pull->p_value);
  }
  const std::vector<double> q_values = statistics::q_values(p_values, p_values.size());
  for (std::size_t i = 0; i < tested.size(); ++i) by_item[tested[i]] = q_values[i];
  return by_item;
}

}  // namespace

OrError<Counts> count_from(BasketValues facts, std::pair<expression::GroupKey, std::string> items,
                           const analysis::QuestionInput& input, const Options& options) {
  if (facts.baskets == 0) return data_error("nothing was bought, so there is no basket.");
  std::vector<double> q_values = q_values_of(facts.items, options.at_least);
  return Counts{
      input, options, std::move(items.first), std::move(items.second), std::move(facts), std::move(q_values)};
}

OrError<Counts> count(const analysis::QuestionInput& input, const Options& options) {
  const expression::LineView lines(input.daybook, input.grains);
  PEAR_ASSIGN(auto key, mining::basket_key(options.items, lines));
  BasketValues facts = basket_values(input.daybook, key.first, options.within);
  return count_from(std::move(facts), std::move(key), input, options);
}

}  // namespace pear::baskets
