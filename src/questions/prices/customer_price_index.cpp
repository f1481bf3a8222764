#include "questions/prices/customer_price_index.hpp"

#include <algorithm>
#include <atomic>
#include <cmath>

#include <tbb/blocked_range.h>
#include <tbb/parallel_for.h>

namespace pear::prices {
namespace {

/// Adds up the pairs of a block of customers, product by product, so that the order of sums is always the
/// same.
class Adder {
 public:
  Adder(const PriceComparison& levels, std::vector<CustomerPrices>& customers)
      : levels_(levels), customers_(customers) {}

  void add_block(std::uint32_t begin, std::uint32_t end) {
    const auto& pairs = levels_.paid().pairs();
    for (std::uint32_t product = 0; product < levels_.paid().products(); ++product) {
      const daybook::Run run = levels_.paid().of_product(product);
      const auto first = std::lower_bound(
          pairs.begin() + run.begin, pairs.begin() + run.end, begin,
          [](const CustomerProductPrice& paid, std::uint32_t customer) { return paid.customer < customer; });
      for (auto pair = first; pair != pairs.begin() + run.end && pair->customer < end; ++pair)
        add(static_cast<std::size_t>(pair - pairs.begin()), customers_[pair->customer]);
    }
  }

  [[nodiscard]] bool out_of_range() const { return out_of_range_; }

 private:
  void add(std::size_t pair, CustomerPrices& sum) {
    const CustomerProductPrice& paid = levels_.paid()[pair];
    const auto amount = static_cast<double>(paid.amount);
    ++sum.products;
    const std::int64_t gap = levels_.gap(pair);
    add_to(sum.quantity, paid.quantity);
    add_to(sum.amount, paid.amount);
    add_to(sum.gap, gap == daybook::kEmptyUnits ? 0 : gap);
    const ProductPrices& product = levels_.product(paid.product);
    sum.at_average += levels_.at_average(pair, CustomerPrices::kCostScale).value_or(0);
    if (const auto at_others = levels_.at_others(pair, CustomerPrices::kCostScale)) {
      sum.at_others += *at_others;
      add_to(sum.with_others, paid.amount);
    }
    if (levels_.is_judged(paid.product) && levels_.at_price_of_time(pair) > 0) {
      const double at_time = levels_.at_price_of_time(pair);
      sum.judged_amount += amount;
      sum.at_expected += at_time * levels_.expected_index(pair);
      sum.at_usual += at_time * levels_.usual_level(paid.product);
      sum.judged_quantity += static_cast<double>(paid.quantity);
      sum.usual_quantity += static_cast<double>(product.usual_quantity);
    }
    add_prices(pair, sum);
  }

  void add_to(std::int64_t& sum, std::int64_t value) {
    if (__builtin_add_overflow(sum, value, &sum)) out_of_range_ = true;
  }

  void add_prices(std::size_t pair, CustomerPrices& sum) const {
    const CustomerProductPrice& paid = levels_.paid()[pair];
    if (paid.highest > sum.highest_price) {  // kEmptyUnits is below
      sum.highest_price = paid.highest;
      sum.highest_price_product = paid.product;
    }
    const std::int64_t list_price = levels_.paid().listed(pair).highest;
    if (list_price > sum.highest_list_price) {
      sum.highest_list_price = list_price;
      sum.highest_list_product = paid.product;
    }
  }

  const PriceComparison& levels_;
  std::vector<CustomerPrices>& customers_;
  std::atomic<bool> out_of_range_ = false;
};

PriceReason reason_of(const CustomerPrices& customer) {
  const OrderEvidence& evidence = customer.evidence;
  if (evidence.is_clear(evidence.expected) && is_clearly_less(customer.judged_amount, customer.at_expected))
    return PriceReason::unexplained;
  constexpr double kFarMore = 2;  // times the usual quantity
  return evidence.is_clear(evidence.usual) && is_clearly_less(customer.judged_amount, customer.at_usual) &&
                 customer.volume_index() >= kFarMore
             ? PriceReason::volume
             : PriceReason::none;
}

}  // namespace

double CustomerPrices::index() const {
  return quotient(static_cast<double>(amount) * kCostScale, static_cast<double>(at_average));
}
double CustomerPrices::index_of_others() const {
  return quotient(static_cast<double>(with_others) * kCostScale, static_cast<double>(at_others));
}
double CustomerPrices::usual_index() const { return quotient(judged_amount, at_usual); }
double CustomerPrices::unexplained() const { return quotient(judged_amount, at_expected); }
double CustomerPrices::volume_index() const { return quotient(judged_quantity, usual_quantity); }

OrError<std::vector<CustomerPrices>> customer_price_indices(const daybook::Daybook& daybook,
                                                            const PriceComparison& levels,
                                                            const std::vector<OrderEvidence>& evidence) {
  std::vector<CustomerPrices> customers(daybook.customers());
  for (std::uint32_t customer = 0; customer < customers.size(); ++customer)
    customers[customer].customer = customer, customers[customer].evidence = evidence[customer];
  Adder adder(levels, customers);
  constexpr std::uint32_t kPerBlock = 8192;
  tbb::parallel_for(std::uint32_t{0}, (daybook.customers() + kPerBlock - 1) / kPerBlock,
                    [&](std::uint32_t block) {
                      const std::uint32_t begin = block * kPerBlock;
                      adder.add_block(begin, std::min(daybook.customers(), begin + kPerBlock));
                    });
  if (adder.out_of_range()) return data_error("what one customer paid adds up to more than 922 trillion.");
  std::erase_if(customers, [](const CustomerPrices& each) { return each.products == 0; });
  for (CustomerPrices& each : customers) each.reason = reason_of(each);
  return customers;
}

}  // namespace pear::prices
