#include "questions/prices/customer_price_index.hpp"

#include <algorithm>
#include <atomic>
#include <cmath>

#include <tbb/blocked_range.h>
#include <tbb/parallel_for.h>

#include "statistics/significance.hpp"

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
    std::int64_t gap = levels_.gap(pair);
    if (gap == daybook::kEmptyUnits) gap = 0;
    if (__builtin_add_overflow(sum.quantity, paid.quantity, &sum.quantity) ||
        __builtin_add_overflow(sum.amount, paid.amount, &sum.amount) ||
        __builtin_add_overflow(sum.gap, gap, &sum.gap))
      out_of_range_ = true;
    const ProductPrices& product = levels_.product(paid.product);
    const double at_average = static_cast<double>(paid.quantity) * static_cast<double>(product.amount) /
                              static_cast<double>(product.quantity);
    sum.at_average += at_average;
    if (product.quantity > paid.quantity) {
      sum.with_others += amount;
      sum.at_others += static_cast<double>(paid.quantity) *
                       static_cast<double>(product.amount - paid.amount) /
                       static_cast<double>(product.quantity - paid.quantity);
    }
    if (levels_.is_judged(paid.product)) {
      const double expected = levels_.expected_index(pair);
      ++sum.judged;
      sum.low += amount <= PriceRules::kClearlyLess * at_average * expected ? 1U : 0U;
      sum.judged_amount += amount;
      sum.at_expected += at_average * expected;
      sum.at_usual += at_average * product.expected.at(product.usual_quantity);
      sum.judged_quantity += static_cast<double>(paid.quantity);
      sum.usual_quantity += static_cast<double>(product.usual_quantity);
    }
    add_prices(pair, sum);
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

void set_reasons(std::vector<CustomerPrices>& customers) {
  std::uint64_t judged = 0, low = 0;
  for (const CustomerPrices& each : customers) {
    judged += each.judged;
    low += each.low;
  }
  const double rate = judged == 0 ? 0 : static_cast<double>(low) / static_cast<double>(judged);
  const auto is_low = [](const CustomerPrices& each) {
    return each.low > 0 && each.low >= PriceRules::kMostOf * each.judged;
  };
  std::vector<double> chances;  // the others count as tests without a finding, whose number makes none of
                                // these q values smaller
  std::uint64_t tests = 0;
  for (const CustomerPrices& each : customers) {
    tests += each.judged > 0 ? 1U : 0U;
    if (is_low(each)) chances.push_back(statistics::probability_of_at_least(each.low, each.judged, rate));
  }
  const std::vector<double> found = statistics::q_values(chances, tests);
  auto q = found.begin();
  for (CustomerPrices& each : customers) {
    if (is_low(each) && *q++ <= statistics::kFalseDiscovery)
      each.reason = PriceReason::unexplained;
    else if (each.usual_index() <= PriceRules::kClearlyLess && each.volume_index() >= PriceRules::kFarMore)
      each.reason = PriceReason::volume;
  }
}

}  // namespace

double CustomerPrices::index() const { return quotient(static_cast<double>(amount), at_average); }
double CustomerPrices::index_of_others() const { return quotient(with_others, at_others); }
double CustomerPrices::usual_index() const { return quotient(judged_amount, at_usual); }
double CustomerPrices::unexplained() const { return quotient(judged_amount, at_expected); }
double CustomerPrices::volume_index() const { return quotient(judged_quantity, usual_quantity); }

OrError<std::vector<CustomerPrices>> customer_price_indices(const daybook::Daybook& daybook,
                                                            const PriceComparison& levels) {
  std::vector<CustomerPrices> customers(daybook.customers());
  for (std::uint32_t customer = 0; customer < customers.size(); ++customer)
    customers[customer].customer = customer;
  Adder adder(levels, customers);
  constexpr std::uint32_t kPerBlock = 8192;
  tbb::parallel_for(std::uint32_t{0}, (daybook.customers() + kPerBlock - 1) / kPerBlock,
                    [&](std::uint32_t block) {
                      const std::uint32_t begin = block * kPerBlock;
                      adder.add_block(begin, std::min(daybook.customers(), begin + kPerBlock));
                    });
  if (adder.out_of_range()) return data_error("what one customer paid adds up to more than 922 billion.");
  std::erase_if(customers, [](const CustomerPrices& each) { return each.products == 0; });
  set_reasons(customers);
  return customers;
}

}  // namespace pear::prices
