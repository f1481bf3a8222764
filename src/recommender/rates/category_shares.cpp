#include "recommender/rates/category_shares.hpp"

#include <algorithm>
#include <cmath>

#include "recommender/customer_sample.hpp"
#include "recommender/prior_weights.hpp"

namespace pear::recommender {

Categories categories_of(const daybook::Daybook& daybook) {
  Categories categories;
  categories.of_product.assign(daybook.products(), 0);
  const daybook::Column* category = daybook.find("category");
  const auto* values = category != nullptr && category->level == daybook::Level::product
                           ? std::get_if<daybook::TextValues>(&category->values)
                           : nullptr;
  if (values == nullptr) return categories;
  const auto none = static_cast<std::uint32_t>(values->dictionary.size());
  for (std::uint32_t product = 0; product < daybook.products(); ++product)
    categories.of_product[product] = std::min(values->codes[product], none);
  categories.count = none + 1;
  return categories;
}

CategoryShares::CategoryShares(std::size_t products, std::size_t categories, std::size_t groups)
    : products_(products),
      categories_(categories),
      of_product_(groups * products),
      of_category_(groups * categories) {}

CategoryShares CategoryShares::fit(const mining::Histories& histories, const analysis::CustomerGroups& groups,
                                   const Categories& categories) {
  CategoryShares shares(histories.counts.size(), categories.count, groups.count);
  std::vector<double> all(shares.products_), all_of_category(categories.count);
  double sum = 0;
  for (std::uint32_t customer = 0; customer < histories.customers(); ++customer)
    for (const mining::HistoryEntry& entry : histories.of(customer)) {
      const std::uint32_t group = groups.group_of(customer), category = categories.of_product[entry.code];
      ++shares.of_product_[group * shares.products_ + entry.code], ++all[entry.code];
      ++shares.of_category_[group * categories.count + category], ++all_of_category[category], ++sum;
    }
  constexpr double kWeight = prior_weight::kProductShare;
  for (std::uint32_t group = 0; group < groups.count; ++group) {
    double* own_of_category = &shares.of_category_[group * shares.categories_];
    double own = 0;
    for (std::size_t category = 0; category < shares.categories_; ++category)
      own += own_of_category[category];
    for (std::size_t product = 0; product < shares.products_; ++product) {
      const std::uint32_t category = categories.of_product[product];
      double& share = shares.of_product_[group * shares.products_ + product];
      const double usual = all_of_category[category] > 0 ? all[product] / all_of_category[category] : 0;
      share = (share + kWeight * usual) / (own_of_category[category] + kWeight);
    }
    for (std::size_t category = 0; category < shares.categories_; ++category)
      own_of_category[category] =
          (own_of_category[category] + kWeight * all_of_category[category] / sum) / (own + kWeight);
  }
  if (shares.categories_ > 1) shares.fit_concentration(histories, groups, categories);
  return shares;
}

/// The most likely power of 2, for a sample of customers.
void CategoryShares::fit_concentration(const mining::Histories& histories,
                                       const analysis::CustomerGroups& groups, const Categories& categories) {
  constexpr std::uint32_t kCustomers = 2'000;  // enough to distinguish powers of 2
  constexpr double kLargest = 1'024;           // beyond this, customers do not differ from their group
  const CustomerSample sample = CustomerSample::of_about(kCustomers, histories.customers());
  double best = 0;
  std::vector<std::uint32_t> bought(categories_);
  for (double concentration = 1; concentration <= kLargest; concentration *= 2) {
    double likelihood = 0;
    for (std::uint32_t customer = 0; customer < histories.customers(); ++customer) {
      if (!sample.contains(customer)) continue;
      std::fill(bought.begin(), bought.end(), 0);
      for (const mining::HistoryEntry& entry : histories.of(customer))
        ++bought[categories.of_product[entry.code]];
      double items = 0;
      for (std::size_t category = 0; category < categories_; ++category) {
        if (bought[category] == 0) continue;
        const double prior = concentration * of_category_[groups.group_of(customer) * categories_ + category];
        likelihood += std::lgamma(bought[category] + prior) - std::lgamma(prior);
        items += bought[category];
      }
      likelihood += std::lgamma(concentration) - std::lgamma(items + concentration);
    }
    if (concentration == 1 || likelihood > best) best = likelihood, concentration_ = concentration;
  }
}

CategoryShares CategoryShares::scaled(const std::vector<double>& factors) const {
  CategoryShares scaled = *this;
  for (std::size_t place = 0; place < scaled.of_product_.size(); ++place)
    scaled.of_product_[place] *= factors[place];
  return scaled;
}

void CategoryShares::of_categories(std::uint32_t group, std::span<const std::uint32_t> bought,
                                   std::uint32_t items, std::span<double> shares) const {
  for (std::uint32_t category = 0; category < categories_; ++category)
    shares[category] = of_category(group, category, bought[category], items);
}

}  // namespace pear::recommender
