#include "recommender/blend/shortlists.hpp"

#include <algorithm>
#include <utility>

namespace pear::recommender {
namespace {

constexpr std::size_t kMost = 300;         ///< products of a group or class
constexpr std::uint32_t kOfCategory = 10;  ///< of a group and category, beyond these

/// Products by falling share: the first ones, and the first ones of each category.
template <class ShareOf>
std::vector<std::uint32_t> first_of(std::vector<std::uint32_t> products, const ShareOf& share_of,
                                    const Categories* categories) {
  std::vector<std::pair<double, std::uint32_t>> ranked;
  for (const std::uint32_t product : products) ranked.emplace_back(-share_of(product), product);
  std::sort(ranked.begin(), ranked.end());
  std::vector<std::uint32_t> taken(categories == nullptr ? 0 : categories->count);
  products.clear();
  for (std::size_t i = 0; i < ranked.size(); ++i) {
    const std::uint32_t product = ranked[i].second;
    if (i < kMost || (categories != nullptr && taken[categories->of_product[product]]++ < kOfCategory))
      products.push_back(product);
    else if (categories == nullptr)
      break;
  }
  return products;
}

}  // namespace

Shortlists::Shortlists(const PurchaseModel& model, const LatentClasses& classes,
                       const std::vector<std::uint8_t>& allowed)
    : products_(allowed.size()), of_groups_(model.groups.count), of_classes_(classes.count()) {
  constexpr std::size_t kFew = 500;
  std::vector<std::uint32_t> all;
  for (std::uint32_t product = 0; product < allowed.size(); ++product)
    if (allowed[product] != 0) all.push_back(product);
  for (std::uint32_t group = 0; group < of_groups_.size(); ++group) {
    for (std::uint32_t product = 0; product < allowed.size(); ++product) {
      const double of_category = model.shares.of_product(group, product);
      const std::uint32_t category = model.categories.of_product[product];
      usual_.push_back(
          {of_category, of_category * model.shares.of_category(group, category, 0, 0), category});
    }
    const auto share = [&](std::uint32_t product) { return usual(group, product).of_all; };
    of_groups_[group] = all.size() <= kFew ? all : first_of(all, share, &model.categories);
  }
  for (std::size_t place = 0; place < of_classes_.size() && all.size() > kFew; ++place)
    of_classes_[place] = first_of(
        all, [&](std::uint32_t product) { return classes.share(place, product); }, nullptr);
}

}  // namespace pear::recommender
