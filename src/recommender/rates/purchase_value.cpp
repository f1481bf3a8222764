#include "recommender/rates/purchase_value.hpp"

#include <tbb/enumerable_thread_specific.h>

#include "daybook/columns/derived_columns.hpp"
#include "daybook/purchases.hpp"
#include "daybook/walk_lines.hpp"
#include "recommender/prior_weights.hpp"

namespace pear::recommender {
namespace {

struct Sum {
  std::int64_t orders = 0;
  Int128 units = 0;
  void add(const Sum& other) { orders += other.orders, units += other.units; }
};

/// Sums by group and product of a column of lines; lines of one order are one purchase.
std::vector<Sum> sums_of(const daybook::Daybook& daybook, Date as_of, const analysis::CustomerGroups& groups,
                         std::span<const std::int64_t> units) {
  const std::size_t products = daybook.products(), size = groups.count * products;
  const auto days = daybook.order_days();
  const daybook::Purchases purchases(daybook);
  tbb::enumerable_thread_specific<std::vector<Sum>> owns([&] { return std::vector<Sum>(size); });
  daybook::for_each_customer_run(daybook, [&](daybook::CustomerRun run) {
    std::vector<Sum>& own = owns.local();
    std::uint32_t order = UINT32_MAX, product = 0;  // of the purchase that a line belongs to
    daybook::walk_lines(daybook, run, [&](const daybook::LinePlace& place) {
      if (!purchases.is_of_product(place.line) || units[place.line] == daybook::kEmptyUnits ||
          days[place.order] > as_of.days)
        return;
      Sum& sum = own[groups.group_of(place.customer) * products + place.product];
      sum.orders += place.order != order || place.product != product ? 1 : 0;
      sum.units += units[place.line];
      order = place.order, product = place.product;
    });
  });
  std::vector<Sum> sums(size);
  for (const auto& own : owns)
    for (std::size_t place = 0; place < size; ++place) sums[place].add(own[place]);
  return sums;
}

/// For all customers by product, and for each group, shrunk towards that.
void find_means(const std::vector<Sum>& sums, std::size_t products, std::vector<double>& all,
                std::vector<double>& own) {
  std::vector<Sum> wholes(products);
  for (std::size_t place = 0; place < sums.size(); ++place) wholes[place % products].add(sums[place]);
  for (const Sum& whole : wholes)
    all.push_back(whole.orders == 0 ? 0
                                    : static_cast<double>(whole.units) / static_cast<double>(whole.orders));
  for (std::size_t place = 0; place < sums.size(); ++place)
    own.push_back(
        (static_cast<double>(sums[place].units) + prior_weight::kPurchaseValue * all[place % products]) /
        (static_cast<double>(sums[place].orders) + prior_weight::kPurchaseValue));
}

}  // namespace

PurchaseValue::PurchaseValue(const daybook::Daybook& daybook, Date as_of,
                             const analysis::CustomerGroups& groups)
    : products_(daybook.products()) {
  find_means(sums_of(daybook, as_of, groups, daybook.amounts()), products_, all_amounts_, amounts_);
  if (const auto margins = daybook::known_margins(daybook); !margins.empty())
    find_means(sums_of(daybook, as_of, groups, margins), products_, all_margins_, margins_);
}

}  // namespace pear::recommender
