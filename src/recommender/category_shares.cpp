#include "recommender/category_shares.hpp"

#include <algorithm>
#include <cmath>

namespace pear::recommender {

Categories categories_of(const daybook::Daybook& daybook) {
  Categories shelves;
  shelves.of_product.assign(daybook.products(), 0);
  const daybook::Column* category = daybook.find("category");
  const auto* values = category != nullptr && category->level == daybook::Level::product
                           ? std::get_if<daybook::TextValues>(&category->values)
                           : nullptr;
  if (values == nullptr) return shelves;
  const auto none = static_cast<std::uint32_t>(values->dictionary.size());
  for (std::uint32_t product = 0; product < daybook.products(); ++product)
    shelves.of_product[product] = std::min(values->codes[product], none);
  shelves.count = none + 1;
  return shelves;
}

CategoryShares::CategoryShares(const mining::Histories& histories, const analysis::CustomerGroups& groups,
                               const Categories& shelves)
    : products_(histories.counts.size()),
      shelves_(shelves.count),
      of_product_(groups.count * products_),
      of_shelf_(groups.count * shelves_) {
  constexpr double kDrawn = 20;
  std::vector<double> all(products_), all_shelf(shelves_);
  double sum = 0;
  for (std::uint32_t customer = 0; customer < histories.customers(); ++customer)
    for (const mining::HistoryEntry& entry : histories.of(customer)) {
      const std::uint32_t group = groups.group_of(customer), shelf = shelves.of_product[entry.code];
      ++of_product_[group * products_ + entry.code], ++all[entry.code];
      ++of_shelf_[group * shelves_ + shelf], ++all_shelf[shelf], ++sum;
    }
  for (std::uint32_t group = 0; group < groups.count; ++group) {
    double* own_shelf = &of_shelf_[group * shelves_];
    double own = 0;
    for (std::size_t shelf = 0; shelf < shelves_; ++shelf) own += own_shelf[shelf];
    for (std::size_t product = 0; product < products_; ++product) {
      const std::uint32_t shelf = shelves.of_product[product];
      double& share = of_product_[group * products_ + product];
      const double usual = all_shelf[shelf] > 0 ? all[product] / all_shelf[shelf] : 0;
      share = (share + kDrawn * usual) / (own_shelf[shelf] + kDrawn);
    }
    for (std::size_t shelf = 0; shelf < shelves_; ++shelf)
      own_shelf[shelf] = (own_shelf[shelf] + kDrawn * all_shelf[shelf] / sum) / (own + kDrawn);
  }
  if (shelves_ > 1) find_concentration(histories, groups, shelves);
}

/// The likeliest of powers of 2, for up to 2,000 customers evenly spread.
void CategoryShares::find_concentration(const mining::Histories& histories,
                                        const analysis::CustomerGroups& groups, const Categories& shelves) {
  constexpr std::uint32_t kCustomers = 2'000;
  constexpr double kLargest = 1'024;
  const std::uint32_t step = 1 + histories.customers() / kCustomers;
  double best = 0;
  std::vector<std::uint32_t> bought(shelves_);
  for (double concentration = 1; concentration <= kLargest; concentration *= 2) {
    double likelihood = 0;
    for (std::uint32_t customer = 0; customer < histories.customers(); customer += step) {
      std::fill(bought.begin(), bought.end(), 0);
      for (const mining::HistoryEntry& entry : histories.of(customer))
        ++bought[shelves.of_product[entry.code]];
      double items = 0;
      for (std::size_t shelf = 0; shelf < shelves_; ++shelf) {
        if (bought[shelf] == 0) continue;
        const double prior = concentration * of_shelf_[groups.group_of(customer) * shelves_ + shelf];
        likelihood += std::lgamma(bought[shelf] + prior) - std::lgamma(prior);
        items += bought[shelf];
      }
      likelihood += std::lgamma(concentration) - std::lgamma(items + concentration);
    }
    if (concentration == 1 || likelihood > best) best = likelihood, concentration_ = concentration;
  }
}

void CategoryShares::adjust(const std::vector<double>& factors) {
  for (std::size_t place = 0; place < of_product_.size(); ++place) of_product_[place] *= factors[place];
}

void CategoryShares::of_shelves(std::uint32_t group, std::span<const std::uint32_t> bought,
                                std::uint32_t items, std::span<double> shares) const {
  for (std::uint32_t shelf = 0; shelf < shelves_; ++shelf)
    shares[shelf] = of_shelf(group, shelf, bought[shelf], items);
}

}  // namespace pear::recommender
