// Three ways to find sets that many baskets contain, on the baskets of a made-up shop of a million lines:
// delivering baskets to items (ours), intersecting lists of baskets (Zaki, IEEE TKDE 12, 2000), and the same
// as bitmaps. The sets are compared first. One thread. With `variants` each product is split into this many,
// the first ones the most frequent.
#include <algorithm>
#include <bit>
#include <cstdlib>
#include <iostream>
#include <map>

#include <benchmark/benchmark.h>
#include <tbb/global_control.h>

#include "demo/shop.hpp"
#include "mining/frequent_itemsets.hpp"

namespace pear {
namespace {

constexpr std::size_t kLargest = 5;

mining::Baskets make_baskets(std::uint32_t variants) {
  const demo::Shop shop = demo::make_shop({1'000'000, 1});
  std::uint64_t state = 1;
  mining::Baskets baskets;
  std::vector<std::uint32_t> items;
  std::uint32_t most = 0;
  for (const demo::Order& order : shop.orders) {
    items.clear();
    for (std::uint64_t line = order.first_line; line < order.first_line + order.line_count; ++line) {
      state = state * 6364136223846793005ULL + 1442695040888963407ULL;
      const double place = static_cast<double>(state >> 33U) / static_cast<double>(1ULL << 31U);
      const auto variant = static_cast<std::uint32_t>(place * place * variants);
      if (shop.lines[line].quantity > 0) items.push_back(shop.lines[line].product * variants + variant);
    }
    std::sort(items.begin(), items.end());
    items.erase(std::unique(items.begin(), items.end()), items.end());
    if (items.empty()) continue;
    most = std::max(most, items.back());
    baskets.items.insert(baskets.items.end(), items.begin(), items.end());
    baskets.begins.push_back(static_cast<std::uint32_t>(baskets.items.size()));
  }
  baskets.counts.resize(most + 1);
  for (const std::uint32_t item : baskets.items) ++baskets.counts[item];
  return baskets;
}

const mining::Baskets& baskets_of(std::uint32_t variants) {
  static std::map<std::uint32_t, mining::Baskets> known;
  if (!known.contains(variants)) known[variants] = make_baskets(variants);
  return known[variants];
}

/// mining::Baskets as a sorted list.
struct List {
  std::vector<std::uint32_t> baskets;

  explicit List(std::size_t) {}
  void add(std::uint32_t basket) { baskets.push_back(basket); }
  [[nodiscard]] std::size_t count() const { return baskets.size(); }
  [[nodiscard]] List with(const List& other) const {
    List both(0);
    std::set_intersection(baskets.begin(), baskets.end(), other.baskets.begin(), other.baskets.end(),
                          std::back_inserter(both.baskets));
    return both;
  }
};

/// mining::Baskets as bits.
struct Bits {
  std::vector<std::uint64_t> words;
  std::size_t ones = 0;

  explicit Bits(std::size_t baskets) : words((baskets + 63) / 64) {}
  void add(std::uint32_t basket) { words[basket / 64] |= 1ULL << (basket % 64), ++ones; }
  [[nodiscard]] std::size_t count() const { return ones; }
  [[nodiscard]] Bits with(const Bits& other) const {
    Bits both = *this;
    both.ones = 0;
    for (std::size_t i = 0; i < words.size(); ++i)
      both.ones += static_cast<std::size_t>(std::popcount(both.words[i] &= other.words[i]));
    return both;
  }
};

template <class Of>
void grow(const std::vector<Of>& siblings, std::size_t size, std::uint32_t least, std::size_t& found) {
  for (std::size_t i = 0; i < siblings.size(); ++i) {
    std::vector<Of> children;
    for (std::size_t j = i + 1; j < siblings.size(); ++j) {
      Of both = siblings[i].with(siblings[j]);
      if (both.count() >= least) children.push_back(std::move(both));
    }
    found += children.size();
    if (size + 1 < kLargest) grow(children, size + 1, least, found);
  }
}

/// Sets of two and more.
template <class Of>
std::size_t vertical(const mining::Baskets& baskets, std::uint32_t least) {
  std::vector<Of> items(baskets.counts.size(), Of(baskets.size()));
  for (std::uint32_t basket = 0; basket < baskets.size(); ++basket)
    for (const std::uint32_t item : baskets.of(basket))
      if (baskets.counts[item] >= least) items[item].add(basket);
  std::erase_if(items, [&](const Of& item) { return item.count() < least; });
  std::stable_sort(items.begin(), items.end(),
                   [](const Of& a, const Of& b) { return a.count() < b.count(); });
  std::size_t found = 0;
  grow(items, 1, least, found);
  return found;
}

std::size_t delivered(const mining::Baskets& baskets, std::uint32_t least) {
  const mining::ItemSets sets = *mine_sets(baskets, {least, kLargest, 100'000'000});
  std::size_t found = 0;
  for (std::size_t set = 0; set < sets.size(); ++set) found += sets.codes(set).size() > 1 ? 1U : 0U;
  return found;
}

template <class Find>
void run(benchmark::State& state, const Find& find) {
  const mining::Baskets& baskets = baskets_of(static_cast<std::uint32_t>(state.range(0)));
  const auto least = static_cast<std::uint32_t>(baskets.size() / static_cast<std::size_t>(state.range(1)));
  if (find(baskets, least) != delivered(baskets, least)) {
    std::cerr << "the sets differ\n";
    std::exit(1);
  }
  const tbb::global_control one_thread(tbb::global_control::max_allowed_parallelism, 1);
  for (auto _ : state) benchmark::DoNotOptimize(find(baskets, least));
  state.counters["sets"] = static_cast<double>(find(baskets, least));
}

void delivering(benchmark::State& state) { run(state, delivered); }
void lists(benchmark::State& state) { run(state, vertical<List>); }
void bitmaps(benchmark::State& state) { run(state, vertical<Bits>); }

// variants of each product; a set must be in 1 of this many baskets
#define PEAR_SIZES \
  ->Args({1, 1000})->Args({1, 5000})->Args({55, 1000})->Args({55, 5000})->Unit(benchmark::kMillisecond)
BENCHMARK(delivering) PEAR_SIZES;
BENCHMARK(lists) PEAR_SIZES;
BENCHMARK(bitmaps) PEAR_SIZES;

}  // namespace
}  // namespace pear

BENCHMARK_MAIN();
