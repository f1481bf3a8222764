// Pairs of products that have to do with one another, before anything is asked of their time.
#pragma once

#include <algorithm>
#include <array>
#include <cstdint>
#include <span>
#include <vector>

#include <absl/container/flat_hash_set.h>
#include <tbb/blocked_range.h>
#include <tbb/parallel_for.h>

#include "question/histories.hpp"

namespace pear {

/// By product, the customers who bought it, in order.
class ProductBuyers {
 public:
  explicit ProductBuyers(const Histories& histories);
  [[nodiscard]] std::span<const std::uint32_t> of(std::uint32_t product) const {
    return std::span(customers_).subspan(begins_[product], begins_[product + 1] - begins_[product]);
  }

 private:
  std::vector<std::uint32_t> begins_, customers_;
};

/// visit(customer) for each of these, with their histories fetched ahead.
template <class Visit>
void walk_buyers(const Histories& histories, std::span<const std::uint32_t> buyers, const Visit& visit) {
  constexpr std::size_t kAhead = 8;
  for (std::size_t i = 0; i < buyers.size(); ++i) {
    if (i + kAhead < buyers.size()) histories.fetch(buyers[i + kAhead]);
    visit(buyers[i]);
  }
}

/// work(begin, end, customers) for one run of products after another, so many that what is counted of them
/// stays within 16 MB; with the customers who bought any of them, in order.
template <class Work>
void for_each_block(const Histories& histories, const ProductBuyers& buyers, std::size_t bytes_per_product,
                    const Work& work) {
  constexpr std::size_t kBytes = 16U << 20U;
  const auto products = static_cast<std::uint32_t>(histories.counts.size());
  const auto size =
      static_cast<std::uint32_t>(std::clamp<std::size_t>(kBytes / bytes_per_product, 1, products));
  for (std::uint32_t begin = 0; begin < products; begin += size) {
    const std::uint32_t end = std::min(products, begin + size);
    std::vector<std::uint8_t> buys(histories.customers());
    for (std::uint32_t product = begin; product < end; ++product)
      for (const std::uint32_t customer : buyers.of(product)) buys[customer] = 1;
    std::vector<std::uint32_t> customers;
    for (std::uint32_t customer = 0; customer < buys.size(); ++customer)
      if (buys[customer] != 0) customers.push_back(customer);
    work(begin, end, customers);
  }
}

/// visit(customer) for each of these on all threads.
template <class Visit>
void walk_in_parallel(const Histories& histories, const std::vector<std::uint32_t>& customers,
                      const Visit& visit) {
  constexpr std::size_t kCustomersPerRun = 512;
  tbb::parallel_for(tbb::blocked_range<std::size_t>(0, customers.size(), kCustomersPerRun),
                    [&](const auto& run) {
                      walk_buyers(histories, std::span(customers).subspan(run.begin(), run.size()), visit);
                    });
}

/// What the counters of all threads have counted: in one of them.
template <class Counters>
auto& added_up(Counters& counters) {
  auto& all = counters.local();
  for (auto& other : counters)
    if (&other != &all) all.add(other);
  return all;
}

/// What kind of pair a step is. Kinds are tested each for itself (Sun, Craiu, Paterson and Bull, Stratified
/// false discovery control for large-scale hypothesis testing, Genetic Epidemiology 30, 2006), so that the
/// few that other questions found do not drown among all that are possible.
enum class LinkKind : std::uint8_t {
  again,     ///< one and the same product
  next,      ///< more customers only bought the later one after the earlier one than the other way round
  together,  ///< orders hold both more often than by chance
  other
};
constexpr std::size_t kLinkKinds = 4;

/// Directions are tested as `sequence` tests them (the sign test, of those who went only one way of all their
/// purchases), orders as `together` does (Fisher's exact test); both with q <= 0.05.
class OfferLinks {
 public:
  OfferLinks(const Histories& histories, const ProductBuyers& buyers);

  [[nodiscard]] LinkKind kind(std::uint32_t earlier, std::uint32_t later) const;
  /// How many pairs there are of a kind.
  [[nodiscard]] std::uint64_t pairs(LinkKind kind) const { return pairs_[static_cast<std::size_t>(kind)]; }

 private:
  absl::flat_hash_set<std::uint64_t> next_, together_;
  std::array<std::uint64_t, kLinkKinds> pairs_{};
};

}  // namespace pear
