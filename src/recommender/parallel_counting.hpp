// Counts customers with one counter for each thread, and adds up the counts.
#pragma once

#include <cstdint>
#include <span>
#include <vector>

#include <tbb/blocked_range.h>
#include <tbb/enumerable_thread_specific.h>
#include <tbb/parallel_for.h>

#include "mining/purchase_histories.hpp"

namespace pear::recommender {

/// Runs of products that are counted together, as many as fit into 16 MB.
struct ProductBlock {
  std::uint32_t begin = 0, end = 0;
  std::vector<std::uint32_t> customers;  ///< customers who bought any of them, in order

  [[nodiscard]] bool holds(std::uint32_t product) const { return product >= begin && product < end; }
  [[nodiscard]] std::size_t size() const { return end - begin; }
};
/// O(entries).
[[nodiscard]] std::vector<ProductBlock> blocks_of(const mining::Histories& histories,
                                                  std::size_t bytes_per_product);

/// Adds the counts of all threads' counters, into one of them. The counts must not depend on which thread
/// counts what, or when.
template <class Counter>
Counter& added_up(tbb::enumerable_thread_specific<Counter>& counters) {
  Counter& all = counters.local();
  for (Counter& other : counters)
    if (&other != &all) all.add(other);
  return all;
}

/// Lets counters visit one customer out of `apart`, evenly spread.
template <class Counter>
void look_at_all(const mining::Histories& histories, tbb::enumerable_thread_specific<Counter>& counters,
                 std::uint32_t apart = 1) {
  constexpr std::uint32_t kCustomersPerRun = 1024;
  const std::uint32_t looked_at = (histories.customers() + apart - 1) / apart;
  tbb::parallel_for(tbb::blocked_range<std::uint32_t>(0, looked_at, kCustomersPerRun), [&](const auto& run) {
    Counter& counter = counters.local();
    for (std::uint32_t i = run.begin(); i != run.end(); ++i) counter.look_at(i * apart);
  });
}

/// Lets counters visit these customers, whose histories are fetched ahead.
template <class Counter>
void look_at_these(const mining::Histories& histories, std::span<const std::uint32_t> customers,
                   tbb::enumerable_thread_specific<Counter>& counters) {
  constexpr std::size_t kCustomersPerRun = 512, kAhead = 8;
  tbb::parallel_for(tbb::blocked_range<std::size_t>(0, customers.size(), kCustomersPerRun),
                    [&](const auto& run) {
                      Counter& counter = counters.local();
                      for (std::size_t i = run.begin(); i != run.end(); ++i) {
                        if (i + kAhead < customers.size()) histories.fetch(customers[i + kAhead]);
                        counter.look_at(customers[i]);
                      }
                    });
}

}  // namespace pear::recommender
