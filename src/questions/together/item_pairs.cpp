#include "questions/together/item_pairs.hpp"

#include <algorithm>
#include <limits>
#include <utility>

#include <absl/container/flat_hash_map.h>
#include <tbb/enumerable_thread_specific.h>

#include "base/pair_key.hpp"
#include "daybook/walk_lines.hpp"

namespace pear::together {
namespace {

/// Only the baskets with the requested item; its counts stay those of all baskets.
mining::Baskets with_item(const mining::Baskets& baskets, std::uint32_t item) {
  mining::Baskets some;
  some.counts.resize(baskets.counts.size());
  for (std::size_t basket = 0; basket < baskets.size(); ++basket) {
    const auto items = baskets.of(basket);
    if (!std::binary_search(items.begin(), items.end(), item)) continue;
    some.items.insert(some.items.end(), items.begin(), items.end());
    some.begins.push_back(static_cast<std::uint32_t>(some.items.size()));
    some.customers.push_back(baskets.customers[basket]);
    for (const std::uint32_t code : items) ++some.counts[code];
  }
  return some;
}

/// Those of all pairs that occur, of items in at least as many baskets as a frequent pair. Those below the
/// support have a rank among the p values. With a requested item, all of its pairs.
mining::ItemSets all_pairs(const Counts& counts, const MinedSets& mined) {
  if (counts.about) return mined.companions;
  mining::ItemSets pairs;
  for (const mining::ItemSets* among : {&mined.frequent, &mined.rare})
    for (std::size_t set = 0; set < among->size(); ++set)
      if (among->codes(set).size() == 2)
        pairs.add(among->codes(set), among->baskets(set), among->squares(set));
  pairs.sort();
  return pairs;
}

}  // namespace

mining::ItemSets companions_of(const mining::Baskets& baskets, std::uint32_t item) {
  constexpr std::size_t kAny = std::numeric_limits<std::size_t>::max();
  const mining::ItemSets sets = *mining::mine_sets(with_item(baskets, item), {1, 2, kAny});
  mining::ItemSets pairs;
  for (std::size_t set = 0; set < sets.size(); ++set) {
    const auto codes = sets.codes(set);
    if (codes.size() == 2 && std::binary_search(codes.begin(), codes.end(), item))
      pairs.add(codes, sets.baskets(set), sets.squares(set));
  }
  return pairs;
}

void add_amounts(const Counts& counts, std::vector<ItemPair>& pairs) {
  absl::flat_hash_map<std::uint64_t, std::uint32_t> places;
  for (std::uint32_t i = 0; i < pairs.size(); ++i) {
    const auto [low, high] = std::minmax(pairs[i].a, pairs[i].b);
    places.emplace(pair_key(low, high), i);
  }
  std::vector<std::uint8_t> is_paired(counts.baskets.counts.size());
  for (const ItemPair& pair : pairs) is_paired[pair.a] = is_paired[pair.b] = 1;
  struct Sums {
    std::vector<DecimalSum> amounts, margins;
  };
  const std::size_t size = pairs.size();
  tbb::enumerable_thread_specific<Sums> all([&] {
    return Sums{std::vector<DecimalSum>(size), std::vector<DecimalSum>(size)};
  });
  const mining::BasketWalker walker(counts.input.daybook, counts.key, counts.options.within);
  daybook::for_each_customer_run(counts.input.daybook, [&](daybook::CustomerRun run) {
    Sums& own = all.local();
    std::vector<mining::BasketItem> items;
    const auto visit = [&](std::span<const mining::BasketItem> basket, Date) {
      for (std::size_t i = 0; i < basket.size(); ++i) {
        if (is_paired[basket[i].code] == 0) continue;
        for (std::size_t j = i + 1; j < basket.size(); ++j) {
          const auto found = places.find(pair_key(basket[i].code, basket[j].code));
          if (found == places.end()) continue;
          for (const mining::BasketItem& item : {basket[i], basket[j]}) {
            own.amounts[found->second].add(Decimal::from_units(item.amount));
            own.margins[found->second].add(Decimal::from_units(item.margin));
          }
        }
      }
    };
    for (std::uint32_t customer = run.begin; customer < run.end; ++customer)
      walker.walk(customer, items, visit);
  });
  for (const Sums& own : all) {
    for (std::size_t i = 0; i < size; ++i) {
      pairs[i].amount.add(own.amounts[i]);
      pairs[i].margin.add(own.margins[i]);
    }
  }
}

void find_pairs(Counts& counts, const mining::AssociationTests& tests, const MinedSets& mined) {
  const mining::ItemSets pairs = all_pairs(counts, mined);
  std::vector<mining::Association> tested = mining::test_sets(tests, pairs);
  std::vector<mining::Association*> all;
  for (mining::Association& each : tested) all.push_back(&each);
  const std::uint64_t items = counts.items_of_sets(counts.about ? 1 : counts.least);
  counts.pairs_tested = counts.about ? items - 1 : mining::combinations(items, 2);
  mining::control_false_discoveries(all, counts.pairs_tested);
  for (std::size_t set = 0; set < pairs.size(); ++set) {
    const auto codes = pairs.codes(set);
    ItemPair pair{codes[0], codes[1], pairs.baskets(set), tested[set], {}, {}};
    if (counts.about == pair.b) std::swap(pair.a, pair.b);
    const double most = pair.both / std::min(counts.count(pair.a), counts.count(pair.b));
    counts.largest_pair = std::max(counts.largest_pair, pair.both);
    if ((counts.about || pair.both >= counts.least) && most >= counts.options.confidence &&
        Counts::lift(pair) >= counts.options.lift)
      counts.pairs.push_back(pair);
  }
  std::stable_sort(counts.pairs.begin(), counts.pairs.end(), [](const ItemPair& a, const ItemPair& b) {
    return std::pair(Counts::is_found(a), a.both) > std::pair(Counts::is_found(b), b.both);
  });
}

}  // namespace pear::together
