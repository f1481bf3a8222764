#include "questions/prices/price_comparison.hpp"

#include <algorithm>
#include <cmath>
#include <utility>

#include <tbb/enumerable_thread_specific.h>
#include <tbb/parallel_for.h>

#include "statistics/quantile.hpp"

namespace pear::prices {
namespace {

constexpr double kNone = std::numeric_limits<double>::quiet_NaN();

std::int64_t by_piece(std::int64_t amount, std::int64_t quantity) {
  const auto price = price_of_piece(Decimal::from_units(amount), Decimal::from_units(quantity));
  return price ? price->units() : daybook::kEmptyUnits;
}

/// a x b / c, rounded half away from zero; c > 0. Nothing if it is out of range.
std::optional<Int128> proportion(Int128 a, Int128 b, std::int64_t c) {
  constexpr Int128 kMost = Int128{1} << 125U;  // twice as much, and c, still fit
  Int128 product = 0;
  if (__builtin_mul_overflow(a, b, &product) || product > kMost || product < -kMost) return std::nullopt;
  return divided_evenly(product, c);
}

double price(std::int64_t amount, std::int64_t quantity) {
  return quotient(static_cast<double>(amount), static_cast<double>(quantity));
}

}  // namespace

std::int64_t ProductPrices::average() const { return by_piece(amount, quantity); }

OrError<PriceComparison> PriceComparison::work_out(CustomerProductPrices paid,
                                                   std::vector<double> at_price_of_time, Against against,
                                                   std::int64_t at_least) {
  PriceComparison levels;
  levels.paid_ = std::move(paid);
  levels.against_ = against;
  levels.products_.resize(levels.paid_.products());
  levels.at_price_of_time_ = std::move(at_price_of_time);
  levels.expected_index_.assign(levels.paid_.size(), kNone);
  std::vector<OrError<void>> faults(levels.paid_.products());
  tbb::parallel_for(std::uint32_t{0}, levels.paid_.products(),
                    [&](std::uint32_t product) { faults[product] = levels.complete(product, at_least); });
  for (const OrError<void>& fault : faults) PEAR_TRY(fault);
  return levels;
}

PriceComparison PriceComparison::of_products(CustomerProductPrices paid, std::vector<ProductPrices> products,
                                             Against against) {
  PriceComparison levels;
  levels.paid_ = std::move(paid);
  levels.against_ = against;
  levels.products_ = std::move(products);
  levels.at_price_of_time_.assign(levels.paid_.size(), 0);
  levels.expected_index_.assign(levels.paid_.size(), kNone);
  return levels;
}

OrError<void> PriceComparison::complete(std::uint32_t product, std::int64_t at_least) {
  ProductPrices& prices = products_[product];
  const daybook::Run run = paid_.of_product(product);
  if (run.size() == 0) return {};
  prices.customers = run.size();
  std::vector<std::int64_t> averages, quantities;
  averages.reserve(run.size());
  quantities.reserve(run.size());
  DecimalSum quantity, amount;
  prices.lowest = INT64_MAX, prices.highest = INT64_MIN;
  for (std::uint32_t pair = run.begin; pair < run.end; ++pair) {
    const CustomerProductPrice& paid = paid_[pair];
    quantity.add(Decimal::from_units(paid.quantity));
    amount.add(Decimal::from_units(paid.amount));
    prices.lowest = std::min(prices.lowest, paid.lowest);
    prices.highest = std::max(prices.highest, paid.highest);
    prices.listed.add(paid_.listed(pair));
    averages.push_back(average(pair));
    quantities.push_back(paid.quantity);
  }
  if (!quantity.total() || !amount.total())
    return data_error("the amounts or pieces of one product add up to more than 922 trillion.");
  prices.quantity = quantity.total()->units();
  prices.amount = amount.total()->units();
  const statistics::Quartiles quartiles = statistics::quartiles_of(averages);
  prices.lower_quartile = quartiles.lower, prices.median = quartiles.median;
  prices.upper_quartile = quartiles.upper;
  prices.usual_quantity = *statistics::quantile_of(quantities, statistics::kHalf);
  for (std::uint32_t pair = run.begin; pair < run.end; ++pair)
    prices.below += is_below(pair, 100 * Decimal::kScale) ? 1U : 0U;
  if (run.size() < at_least || prices.amount <= 0) return {};
  std::vector<statistics::Observation> observations;
  observations.reserve(run.size());
  for (std::uint32_t pair = run.begin; pair < run.end; ++pair)
    if (at_price_of_time_[pair] > 0) observations.push_back({paid_[pair].quantity, time_index(pair)});
  prices.expected = statistics::isotonic_regression(observations);
  if (!prices.expected.is_empty())
    for (std::uint32_t pair = run.begin; pair < run.end; ++pair)
      expected_index_[pair] = prices.expected.at(paid_[pair].quantity);
  return {};
}

std::int64_t PriceComparison::average(std::size_t pair) const {
  return by_piece(paid_[pair].amount, paid_[pair].quantity);
}

std::int64_t PriceComparison::others_average(std::size_t pair) const {
  const CustomerProductPrice& paid = paid_[pair];
  const ProductPrices& all = products_[paid.product];
  return by_piece(all.amount - paid.amount, all.quantity - paid.quantity);
}

double PriceComparison::index(std::size_t pair) const {
  const CustomerProductPrice& paid = paid_[pair];
  const ProductPrices& all = products_[paid.product];
  return quotient(price(paid.amount, paid.quantity), price(all.amount, all.quantity));
}

double PriceComparison::index_of_others(std::size_t pair) const {
  const CustomerProductPrice& paid = paid_[pair];
  const ProductPrices& all = products_[paid.product];
  return quotient(price(paid.amount, paid.quantity),
                  price(all.amount - paid.amount, all.quantity - paid.quantity));
}

int PriceComparison::compared(std::size_t pair, std::int64_t per_cent) const {
  constexpr std::int64_t kWhole = 100 * Decimal::kScale;
  const CustomerProductPrice& paid = paid_[pair];
  if (against_ == Against::list) {
    const Listed listed = paid_.listed(pair);
    return listed.quantity == 0
               ? 0
               : compare_products(Int128{listed.amount} * Decimal::kScale, kWhole, listed.value, per_cent);
  }
  const ProductPrices& all = products_[paid.product];
  const std::int64_t own = against_ == Against::others ? 1 : 0;
  const std::int64_t quantity = all.quantity - own * paid.quantity, amount = all.amount - own * paid.amount;
  return quantity == 0 ? 0
                       : compare_products(Int128{paid.amount} * quantity, kWhole,
                                          Int128{amount} * paid.quantity, per_cent);
}

bool PriceComparison::is_below(std::size_t pair, std::int64_t per_cent) const {
  return compared(pair, per_cent) < 0;
}
bool PriceComparison::is_above(std::size_t pair, std::int64_t per_cent) const {
  return compared(pair, per_cent) > 0;
}

std::optional<Int128> PriceComparison::at_average(std::size_t pair, std::int64_t scale) const {
  const CustomerProductPrice& paid = paid_[pair];
  const ProductPrices& all = products_[paid.product];
  return proportion(Int128{paid.quantity} * scale, all.amount, all.quantity);
}

std::optional<Int128> PriceComparison::at_others(std::size_t pair, std::int64_t scale) const {
  const CustomerProductPrice& paid = paid_[pair];
  const ProductPrices& all = products_[paid.product];
  if (all.quantity == paid.quantity) return std::nullopt;
  return proportion(Int128{paid.quantity} * scale, all.amount - paid.amount, all.quantity - paid.quantity);
}

std::int64_t PriceComparison::gap(std::size_t pair) const {
  std::int64_t amount = paid_[pair].amount;
  std::optional<Int128> compared;
  if (against_ == Against::list) {
    const Listed listed = paid_.listed(pair);
    amount = listed.amount;
    if (listed.quantity > 0) compared = proportion(listed.value, 1, Decimal::kScale);
  } else {
    compared = against_ == Against::all ? at_average(pair, 1) : at_others(pair, 1);
  }
  std::int64_t gap = 0;
  return !compared || __builtin_sub_overflow(*compared, amount, &gap) ? daybook::kEmptyUnits : gap;
}

double PriceComparison::time_index(std::size_t pair) const {
  return quotient(static_cast<double>(paid_[pair].amount), at_price_of_time_[pair]);
}

double PriceComparison::unexplained(std::size_t pair) const {
  return quotient(time_index(pair), expected_index(pair));
}

}  // namespace pear::prices
