#include "recommender/taste/repeat_purchases.hpp"

#include <algorithm>
#include <cmath>

#include <absl/container/flat_hash_map.h>

namespace pear::recommender {
namespace {

/// The middle one; `otherwise` if there are few.
std::int32_t median(std::vector<std::int32_t>& values, std::int32_t otherwise) {
  constexpr std::size_t kFewest = 10;
  if (values.size() < kFewest) return otherwise;
  const auto middle = values.begin() + static_cast<std::ptrdiff_t>(values.size() / 2);
  std::nth_element(values.begin(), middle, values.end());
  return std::max(1, *middle);
}

}  // namespace

RepeatPurchases RepeatPurchases::fit(const mining::Histories& known, std::int32_t as_of) {
  constexpr double kWeight = 20;         // buyers of all products, by which a product's share is shrunk
  constexpr std::int32_t kUnknown = 90;  // days, where nothing is bought again
  const std::size_t products = known.counts.size();
  RepeatPurchases repeats;
  repeats.as_of_ = as_of;
  repeats.shares_.resize(products);
  std::vector<double> again(products);
  std::vector<std::vector<std::int32_t>> gaps(products);
  absl::flat_hash_map<std::uint32_t, std::pair<std::int32_t, bool>> last;  // day, and whether bought again
  for (std::uint32_t customer = 0; customer < known.customers(); ++customer) {
    last.clear();
    for (const mining::HistoryEntry& entry : known.of(customer)) {
      repeats.shares_[entry.code] += 1.0 / static_cast<double>(known.entries.size());
      const auto [found, is_new] = last.try_emplace(entry.code, entry.day, false);
      if (is_new || found->second.first == entry.day) continue;
      gaps[entry.code].push_back(entry.day - found->second.first);
      if (!std::exchange(found->second.second, true)) ++again[entry.code];
      found->second.first = entry.day;
    }
  }
  double buyers = 0, all_again = 0;
  std::vector<std::int32_t> all_gaps;
  for (std::size_t product = 0; product < products; ++product) {
    buyers += known.counts[product];
    all_again += again[product];
    all_gaps.insert(all_gaps.end(), gaps[product].begin(), gaps[product].end());
  }
  const std::int32_t usual_gap = median(all_gaps, kUnknown);
  const double usual = (all_again + 1) / (buyers + 2);
  for (std::size_t product = 0; product < products; ++product) {
    repeats.tendencies_.push_back(
        std::log((again[product] + kWeight * usual) / (known.counts[product] + kWeight) / usual));
    repeats.gaps_.push_back(median(gaps[product], usual_gap));
  }
  repeats.fit_precision(known);
  return repeats;
}

/// The most likely power of 2, for a sample of customers.
void RepeatPurchases::fit_precision(const mining::Histories& known) {
  constexpr std::uint32_t kCustomers = 2'000;  // enough to distinguish powers of 2
  constexpr double kLargest = 4'096;           // beyond this, customers do not differ
  const CustomerSample sample = CustomerSample::of_about(kCustomers, known.customers());
  double best = 0;
  absl::flat_hash_map<std::uint32_t, std::uint32_t> bought;
  for (double precision = 1; precision <= kLargest; precision *= 2) {
    double likelihood = 0;
    for (std::uint32_t customer = 0; customer < known.customers(); ++customer) {
      if (!sample.contains(customer)) continue;
      const auto history = known.of(customer);
      bought.clear();
      for (const mining::HistoryEntry& entry : history) {
        // As in an urn: each purchase adds one of its product.
        const double prior = precision * shares_[entry.code];
        likelihood += std::log(prior + bought[entry.code]++);
      }
      likelihood += std::lgamma(precision) - std::lgamma(precision + static_cast<double>(history.size()));
    }
    if (precision == 1 || likelihood > best) best = likelihood, precision_ = precision;
  }
}

double RepeatPurchases::weight_of(std::int32_t day) const {
  constexpr double kHalfLife = 182.5;  // days
  return std::exp2((day - as_of_) / kHalfLife);
}

double RepeatPurchases::interval(std::uint32_t product, const OwnPurchases& own) const {
  return (own.last_day - own.first_day + gaps_[product]) / static_cast<double>(own.orders);
}

}  // namespace pear::recommender
