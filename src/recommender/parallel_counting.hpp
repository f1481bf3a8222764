// Counts customers with one counter for each thread, and adds up the counts.
#pragma once

#include <cstdint>
#include <span>
#include <utility>
#include <vector>

#include <tbb/blocked_range.h>
#include <tbb/enumerable_thread_specific.h>
#include <tbb/parallel_for.h>

#include "mining/purchase_histories.hpp"
#include "recommender/customer_sample.hpp"

namespace pear::recommender {

/// Counts at many places, few of which are used: the others cost memory, but no time.
template <class Count>
class SparseCounts {
 public:
  explicit SparseCounts(std::size_t places) : counts_(places), is_used_(places) {}

  [[nodiscard]] Count& operator[](std::size_t place) {
    if (std::exchange(is_used_[place], 1) == 0) used_.push_back(place);
    return counts_[place];
  }
  [[nodiscard]] const Count& at(std::size_t place) const { return counts_[place]; }
  /// In any order.
  [[nodiscard]] const std::vector<std::size_t>& used() const { return used_; }
  void add(const SparseCounts& other) {
    for (const std::size_t place : other.used_) (*this)[place].add(other.counts_[place]);
  }
  void clear() {
    for (const std::size_t place : used_) counts_[place] = {}, is_used_[place] = 0;
    used_.clear();
  }

 private:
  std::vector<Count> counts_;
  std::vector<std::uint8_t> is_used_;
  std::vector<std::size_t> used_;
};

/// Runs of products that are counted together, as many as fit into 16 MB.
struct ProductBlock {
  std::uint32_t begin = 0, end = 0;
  std::vector<std::uint32_t> customers;  ///< customers who bought any of them, in order

  [[nodiscard]] bool holds(std::uint32_t product) const { return product >= begin && product < end; }
  [[nodiscard]] std::size_t size() const { return end - begin; }
};
/// All blocks but the last are equally large. O(entries).
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

/// Lets counters visit the customers of a sample.
template <class Counter>
void look_at_all(const mining::Histories& histories, tbb::enumerable_thread_specific<Counter>& counters,
                 CustomerSample sample = {}) {
  constexpr std::uint32_t kCustomersPerRun = 1024;
  tbb::parallel_for(tbb::blocked_range<std::uint32_t>(0, histories.customers(), kCustomersPerRun),
                    [&](const auto& run) {
                      Counter& counter = counters.local();
                      for (std::uint32_t customer = run.begin(); customer != run.end(); ++customer)
                        if (sample.contains(customer)) counter.look_at(customer);
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

/// Counts the customers of each block, and visits the counts of each block. A counter has begin(block), which
/// forgets the block before. Many blocks are counted side by side, each by one thread; of few blocks, several
/// threads count the customers. Several threads may visit at a time, each another block.
template <class MakeCounter, class Visit>
void count_blocks(const mining::Histories& histories, const std::vector<ProductBlock>& blocks,
                  const MakeCounter& make_counter, const Visit& visit) {
  using Counter = decltype(make_counter(std::size_t{}));
  constexpr std::size_t kMany = 16;
  if (blocks.size() >= kMany) {
    tbb::enumerable_thread_specific<Counter> counters([&] { return make_counter(blocks.front().size()); });
    tbb::parallel_for(
        tbb::blocked_range<std::size_t>(0, blocks.size(), 1),
        [&](const auto& run) {
          for (std::size_t i = run.begin(); i != run.end(); ++i) {
            Counter& counter = counters.local();
            counter.begin(blocks[i]);
            for (const std::uint32_t customer : blocks[i].customers) counter.look_at(customer);
            visit(counter);
          }
        },
        tbb::simple_partitioner());
    return;
  }
  const ProductBlock* now = nullptr;
  tbb::enumerable_thread_specific<Counter> counters([&] {
    Counter counter = make_counter(blocks.front().size());
    counter.begin(*now);
    return counter;
  });
  for (const ProductBlock& block : blocks) {
    now = &block;
    for (Counter& counter : counters) counter.begin(block);
    look_at_these(histories, block.customers, counters);
    visit(added_up(counters));
  }
}

}  // namespace pear::recommender
