#include "recommender/taste/latent_classes.hpp"

#include <algorithm>
#include <cmath>
#include <numeric>
#include <span>
#include <utility>

#include <tbb/parallel_for.h>

#include "recommender/customer_sample.hpp"

namespace pear::recommender {
namespace {

constexpr double kSmoothing = 50;  ///< products of all customers that are added to each class
constexpr double kLeastShare = 1e-12;

/// From logarithms of weights to probabilities.
void normalise(std::span<double> logs) {
  const double largest = *std::max_element(logs.begin(), logs.end());
  double sum = 0;
  for (double& value : logs) sum += value = std::exp(value - largest);
  for (double& value : logs) value /= sum;
}

/// Whether the sum is larger by more than the standard error of the difference (the one-standard-error rule:
/// Breiman, Friedman, Olshen and Stone, Classification and Regression Trees, 1984).
bool is_clearly_larger(std::span<const double> values, std::span<const double> others) {
  double sum = 0, squares = 0;
  for (std::size_t i = 0; i < values.size(); ++i) {
    const double difference = values[i] - others[i];
    sum += difference, squares += difference * difference;
  }
  return sum > 0 && sum * sum > squares;
}

}  // namespace

/// The different products of each customer, in order of the first purchase.
struct LatentClasses::Baskets {
  std::vector<std::uint32_t> products;
  std::vector<std::size_t> begins{0};
  std::vector<std::uint32_t> groups;

  void add(std::uint32_t group, std::span<const mining::HistoryEntry> history) {
    for (const mining::HistoryEntry& entry : history)
      if (entry.is_first != 0) products.push_back(entry.code);
    if (products.size() == begins.back()) return;
    begins.push_back(products.size());
    groups.push_back(group);
  }
  [[nodiscard]] std::size_t customers() const { return begins.size() - 1; }
  [[nodiscard]] std::span<const std::uint32_t> of(std::size_t customer) const {
    return std::span(products).subspan(begins[customer], begins[customer + 1] - begins[customer]);
  }
};

LatentClasses::LatentClasses(std::size_t products, std::size_t classes, std::size_t groups)
    : classes_(classes),
      sizes_(groups * classes),
      shares_(products * classes),
      logs_(products * classes),
      overall_(products) {}

LatentClasses LatentClasses::fit(const mining::Histories& known, const analysis::CustomerGroups& groups) {
  constexpr std::uint32_t kMostCustomers = 60'000, kLeftOut = 5;
  constexpr std::size_t kMostClasses = 16;
  constexpr int kIterations = 30;
  const CustomerSample sample = CustomerSample::of_about(kMostCustomers, known.customers());
  Baskets all, learned, left_out;
  for (std::uint32_t customer = 0; customer < known.customers(); ++customer) {
    if (!sample.contains(customer)) continue;
    const std::uint32_t group = groups.group_of(customer);
    all.add(group, known.of(customer));
    (scrambled(scrambled(customer)) % kLeftOut == 0 ? left_out : learned).add(group, known.of(customer));
  }
  const std::size_t products = known.counts.size();
  const auto fitted = [&](const Baskets& customers, std::size_t classes) {
    LatentClasses model(products, classes, groups.count);
    model.start(customers);
    for (int i = 0; i < kIterations && classes > 1; ++i) model.iterate(customers);
    return model;
  };
  std::size_t best = 1;
  std::vector<double> best_predicted = fitted(learned, 1).predicted(left_out);
  for (std::size_t classes = 2; classes <= kMostClasses; classes *= 2) {
    std::vector<double> predicted = fitted(learned, classes).predicted(left_out);
    if (!is_clearly_larger(predicted, best_predicted)) break;
    best = classes, best_predicted = std::move(predicted);
  }
  return fitted(all, best);
}

/// Each customer in a random class.
void LatentClasses::start(const Baskets& customers) {
  const std::size_t classes = count();
  for (const std::uint32_t product : customers.products)
    overall_[product] += 1.0 / static_cast<double>(customers.products.size());
  std::vector<double> counts(shares_.size()), sizes(sizes_.size());
  for (std::size_t customer = 0; customer < customers.customers(); ++customer) {
    const std::size_t own = scrambled(customer) % classes;
    ++sizes[customers.groups[customer] * classes + own];
    for (const std::uint32_t product : customers.of(customer)) ++counts[product * classes + own];
  }
  set_from(counts, sizes);
}

void LatentClasses::iterate(const Baskets& customers) {
  constexpr std::size_t kPerBlock = 4'096;
  const std::size_t classes = count(), blocks = (customers.customers() + kPerBlock - 1) / kPerBlock;
  std::vector<double> probabilities(customers.customers() * classes);
  tbb::parallel_for(std::size_t{0}, blocks, [&](std::size_t block) {
    const std::size_t end = std::min(customers.customers(), (block + 1) * kPerBlock);
    for (std::size_t customer = block * kPerBlock; customer < end; ++customer)
      classify(customers.groups[customer], customers.of(customer),
               std::span(probabilities).subspan(customer * classes, classes));
  });
  std::vector<double> counts(shares_.size()), sizes(sizes_.size());
  for (std::size_t customer = 0; customer < customers.customers(); ++customer)
    for (std::size_t i = 0; i < classes; ++i) {
      const double probability = probabilities[customer * classes + i];
      sizes[customers.groups[customer] * classes + i] += probability;
      for (const std::uint32_t product : customers.of(customer)) counts[product * classes + i] += probability;
    }
  set_from(counts, sizes);
}

void LatentClasses::set_from(std::span<const double> counts, std::span<const double> sizes) {
  const std::size_t classes = count();
  constexpr double kWeight = 20;  // customers of all groups, by which a group's sizes are shrunk
  std::vector<double> of_all(classes), sums(classes, kSmoothing);
  for (std::size_t place = 0; place < sizes.size(); ++place) of_all[place % classes] += sizes[place];
  const double all = std::accumulate(of_all.begin(), of_all.end(), 0.0);
  for (std::size_t group = 0; group < sizes.size() / classes; ++group) {
    const auto own = sizes.subspan(group * classes, classes);
    const double customers = std::accumulate(own.begin(), own.end(), 0.0);
    for (std::size_t i = 0; i < classes; ++i) {
      const double usual = (of_all[i] + 1) / (all + static_cast<double>(classes));
      sizes_[group * classes + i] = (own[i] + kWeight * usual) / (customers + kWeight);
    }
  }
  for (std::size_t place = 0; place < counts.size(); ++place) sums[place % classes] += counts[place];
  for (std::size_t place = 0; place < counts.size(); ++place) {
    const double share = (counts[place] + kSmoothing * overall_[place / classes]) / sums[place % classes];
    shares_[place] = share;
    logs_[place] = std::log(std::max(share, kLeastShare));
  }
}

/// By customer, the sum of the logarithms of the shares of the second half of their products, given the
/// first.
std::vector<double> LatentClasses::predicted(const Baskets& customers) const {
  std::vector<double> sums, probabilities(count());
  for (std::size_t customer = 0; customer < customers.customers(); ++customer) {
    const auto products = customers.of(customer);
    const std::size_t half = products.size() / 2;
    classify(customers.groups[customer], products.first(half), probabilities);
    double& sum = sums.emplace_back();
    for (const std::uint32_t product : products.subspan(half))
      sum += std::log(std::max(share_of(probabilities, product), kLeastShare));
  }
  return sums;
}

void LatentClasses::classify(std::uint32_t group, std::span<const std::uint32_t> products,
                             std::span<double> probabilities) const {
  for (std::size_t i = 0; i < count(); ++i) probabilities[i] = std::log(sizes_[group * count() + i]);
  for (const std::uint32_t product : products)
    for (std::size_t i = 0; i < count(); ++i) probabilities[i] += logs_[product * count() + i];
  normalise(probabilities);
}

double LatentClasses::share_of(std::span<const double> probabilities, std::uint32_t product) const {
  double sum = 0;
  for (std::size_t i = 0; i < count(); ++i) sum += probabilities[i] * share(i, product);
  return sum;
}

}  // namespace pear::recommender
