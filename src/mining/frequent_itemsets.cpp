#include "mining/frequent_itemsets.hpp"

#include <algorithm>
#include <atomic>
#include <limits>
#include <numeric>

#include <tbb/enumerable_thread_specific.h>
#include <tbb/parallel_for.h>

namespace pear::mining {

void ItemSets::add(std::span<const std::uint32_t> codes, std::uint32_t baskets, std::uint64_t squares) {
  codes_.insert(codes_.end(), codes.begin(), codes.end());
  begins_.push_back(static_cast<std::uint32_t>(codes_.size()));
  baskets_.push_back(baskets);
  squares_.push_back(squares);
}

void ItemSets::append(const ItemSets& other) {
  for (std::size_t set = 0; set < other.size(); ++set)
    add(other.codes(set), other.baskets(set), other.squares(set));
}

void ItemSets::sort() {
  std::vector<std::uint32_t> order(size());
  std::iota(order.begin(), order.end(), 0U);
  std::sort(order.begin(), order.end(), [&](std::uint32_t a, std::uint32_t b) {
    const auto x = codes(a), y = codes(b);
    return x.size() != y.size() ? x.size() < y.size()
                                : std::lexicographical_compare(x.begin(), x.end(), y.begin(), y.end());
  });
  ItemSets sorted;
  for (const std::uint32_t set : order) sorted.add(codes(set), baskets(set), squares(set));
  *this = std::move(sorted);
}

namespace {

std::string_view bytes_of(std::span<const std::uint32_t> codes) {
  return {reinterpret_cast<const char*>(codes.data()), codes.size_bytes()};
}

}  // namespace

SetIndex::SetIndex(const ItemSets& sets) {
  places_.reserve(sets.size());
  for (std::uint32_t set = 0; set < sets.size(); ++set) places_.emplace(bytes_of(sets.codes(set)), set);
}

std::optional<std::size_t> SetIndex::find(std::span<const std::uint32_t> codes) const {
  const auto found = places_.find(bytes_of(codes));
  return found == places_.end() ? std::nullopt : std::optional<std::size_t>(found->second);
}

namespace {

/// Ranks are below it. A basket ends with this plus its customer, of which neighbours are distinguished.
constexpr std::uint32_t kEnd = 0x8000'0000;
constexpr std::uint32_t kNone = std::numeric_limits<std::uint32_t>::max();

/// Frequent items by rank, the rarest first, and the baskets as ranks, each with its end.
struct RankedBaskets {
  std::vector<std::uint32_t> codes;   ///< by rank
  std::vector<std::uint32_t> items;   ///< ranks, in order within a basket
  std::vector<std::uint32_t> places;  ///< by rank, in one array: where each item occurs, one place after it
  std::vector<std::uint32_t> begins;  ///< by rank into places, and the end

  RankedBaskets(const Baskets& baskets, std::uint32_t least) {
    for (std::uint32_t code = 0; code < baskets.counts.size(); ++code)
      if (baskets.counts[code] >= std::max(1U, least)) codes.push_back(code);
    std::stable_sort(codes.begin(), codes.end(),
                     [&](std::uint32_t a, std::uint32_t b) { return baskets.counts[a] < baskets.counts[b]; });
    std::vector<std::uint32_t> ranks(baskets.counts.size(), kNone);
    for (std::uint32_t rank = 0; rank < codes.size(); ++rank) ranks[codes[rank]] = rank;
    recode(baskets, ranks);
    index();
  }

 private:
  void recode(const Baskets& baskets, const std::vector<std::uint32_t>& ranks) {
    constexpr std::size_t kPerBlock = 65'536;
    std::vector<std::vector<std::uint32_t>> blocks((baskets.size() + kPerBlock - 1) / kPerBlock);
    tbb::parallel_for(std::size_t{0}, blocks.size(), [&](std::size_t block) {
      std::vector<std::uint32_t>& into = blocks[block];
      for (std::size_t basket = block * kPerBlock; basket < std::min(baskets.size(), (block + 1) * kPerBlock);
           ++basket) {
        const std::size_t begin = into.size();
        for (const std::uint32_t code : baskets.of(basket))
          if (ranks[code] != kNone) into.push_back(ranks[code]);
        if (into.size() - begin < 2) {  // no pair in it
          into.resize(begin);
          continue;
        }
        std::sort(into.begin() + static_cast<std::ptrdiff_t>(begin), into.end());
        into.push_back(kEnd | baskets.customers[basket]);
      }
    });
    std::size_t size = 0;
    for (const auto& block : blocks) size += block.size();
    items.reserve(size);
    for (auto& block : blocks) {
      items.insert(items.end(), block.begin(), block.end());
      block = {};
    }
  }

  void index() {
    begins.assign(codes.size() + 1, 0);
    for (const std::uint32_t rank : items)
      if (rank < kEnd) ++begins[rank + 1];
    std::partial_sum(begins.begin(), begins.end(), begins.begin());
    places.resize(begins.back());
    std::vector<std::uint32_t> next(begins.begin(), begins.end() - 1);
    for (std::uint32_t place = 0; place < items.size(); ++place)
      if (items[place] < kEnd) places[next[items[place]]++] = place + 1;
  }
};

/// The baskets with one item after a prefix. Baskets come in order of customers.
struct Tally {
  std::uint32_t baskets = 0;
  std::uint32_t customer = 0, of_customer = 0;  ///< the last one, and the baskets of that customer
  std::uint64_t squares = 0;                    ///< see ItemSets::squares()

  void add(std::uint32_t of) {
    of_customer = baskets != 0 && customer == of ? of_customer + 1 : 1;
    customer = of;
    squares += 2 * std::uint64_t{of_customer} - 1;  // the next square
    ++baskets;
  }
};

/// One thread's work: the sets that begin with one rank, and those that extend them.
class SetGrower {
 public:
  SetGrower(const RankedBaskets& baskets, const MiningBounds& bounds, std::atomic<std::size_t>& found)
      : baskets_(baskets), bounds_(bounds), found_(found) {
    for (std::size_t depth = 0; depth < bounds.largest; ++depth)
      levels_.push_back({std::vector<Tally>(baskets.codes.size()),
                         std::vector<std::uint32_t>(baskets.codes.size(), kNone),
                         {},
                         {},
                         {}});
  }

  /// `rare_pairs`: see mine_sets(), or nothing.
  void grow_from(std::uint32_t rank, ItemSets& into, ItemSets* rare_pairs) {
    prefix_ = {rank};
    rare_pairs_ = rare_pairs;
    const std::uint32_t begin = baskets_.begins[rank], end = baskets_.begins[rank + 1];
    grow(std::span(baskets_.places).subspan(begin, end - begin), 0, into);
  }

 private:
  struct Level {
    std::vector<Tally> tallies;       ///< by rank, empty between uses
    std::vector<std::uint32_t> next;  ///< by rank, its next free place; kNone between uses
    std::vector<std::uint32_t> touched, frequent, places;
  };

  /// `places`: for each basket that contains the prefix, the place after the prefix's last item.
  void grow(std::span<const std::uint32_t> places, std::size_t depth, ItemSets& into) {
    if (prefix_.size() >= bounds_.largest || found_ > bounds_.at_most) return;
    Level& level = levels_[depth];
    count(places, level);
    std::vector<std::uint32_t> begins;  // of the frequent items, into the level's places
    std::uint32_t all = 0;
    for (const std::uint32_t rank : level.frequent) {
      emit(rank, level.tallies[rank], into);
      begins.push_back(all);
      all += level.tallies[rank].baskets;
    }
    begins.push_back(all);
    const std::vector<std::uint32_t> frequent = level.frequent;
    const bool goes_on = prefix_.size() + 1 < bounds_.largest && frequent.size() > 1;
    if (goes_on) deliver(places, frequent, begins, level);
    for (const std::uint32_t rank : level.touched) level.tallies[rank] = {};
    level.touched.clear();
    if (!goes_on) return;
    for (std::size_t i = 0; i < frequent.size(); ++i) {
      prefix_.push_back(frequent[i]);
      grow(std::span<const std::uint32_t>(level.places).subspan(begins[i], begins[i + 1] - begins[i]),
           depth + 1, into);
      prefix_.pop_back();
    }
  }

  void count(std::span<const std::uint32_t> places, Level& level) {
    for (const std::uint32_t place : places) {
      std::uint32_t end = place;
      while (baskets_.items[end] < kEnd) ++end;
      for (std::uint32_t at = place; at < end; ++at) {
        Tally& tally = level.tallies[baskets_.items[at]];
        if (tally.baskets == 0) level.touched.push_back(baskets_.items[at]);
        tally.add(baskets_.items[end]);
      }
    }
    level.frequent.clear();
    for (const std::uint32_t rank : level.touched) {
      if (level.tallies[rank].baskets >= bounds_.least)
        level.frequent.push_back(rank);
      else if (rare_pairs_ != nullptr && prefix_.size() == 1)
        add(rank, level.tallies[rank], *rare_pairs_);
    }
    std::sort(level.frequent.begin(), level.frequent.end());
  }

  /// Assigns every place to the frequent items after it.
  void deliver(std::span<const std::uint32_t> places, const std::vector<std::uint32_t>& frequent,
               const std::vector<std::uint32_t>& begins, Level& level) const {
    level.places.resize(begins.back());
    for (std::size_t i = 0; i < frequent.size(); ++i) level.next[frequent[i]] = begins[i];
    for (const std::uint32_t place : places) {
      for (std::uint32_t at = place; baskets_.items[at] < kEnd; ++at) {
        std::uint32_t& next = level.next[baskets_.items[at]];
        if (next != kNone) level.places[next++] = at + 1;
      }
    }
    for (const std::uint32_t rank : frequent) level.next[rank] = kNone;
  }

  void emit(std::uint32_t rank, const Tally& tally, ItemSets& into) {
    add(rank, tally, into);
    ++found_;
  }

  /// Adds the prefix with one more item.
  void add(std::uint32_t rank, const Tally& tally, ItemSets& into) {
    std::vector<std::uint32_t> codes;
    for (const std::uint32_t each : prefix_) codes.push_back(baskets_.codes[each]);
    codes.push_back(baskets_.codes[rank]);
    std::sort(codes.begin(), codes.end());
    into.add(codes, tally.baskets, tally.squares);
  }

  const RankedBaskets& baskets_;
  const MiningBounds& bounds_;
  std::atomic<std::size_t>& found_;
  std::vector<std::uint32_t> prefix_;
  ItemSets* rare_pairs_ = nullptr;
  std::vector<Level> levels_;
};

}  // namespace

std::optional<ItemSets> mine_sets(const Baskets& baskets, const MiningBounds& bounds,
                                  const analysis::Progress& progress, ItemSets* rare_pairs) {
  const RankedBaskets ranked(baskets, bounds.least);
  std::atomic<std::size_t> found = 0;
  std::vector<ItemSets> by_rank(ranked.codes.size()), rare(rare_pairs == nullptr ? 0 : by_rank.size());
  analysis::ParallelProgress reported(progress, by_rank.size());
  tbb::enumerable_thread_specific<SetGrower> growers([&] { return SetGrower(ranked, bounds, found); });
  tbb::parallel_for(
      tbb::blocked_range<std::uint32_t>(0, static_cast<std::uint32_t>(by_rank.size()), 1),
      [&](const auto& run) {
        for (std::uint32_t rank = run.begin(); rank != run.end(); ++rank) {
          growers.local().grow_from(rank, by_rank[rank], rare_pairs == nullptr ? nullptr : &rare[rank]);
          reported.advance();
        }
      },
      tbb::simple_partitioner());
  if (found > bounds.at_most) return std::nullopt;
  ItemSets sets;
  for (const std::uint32_t code : ranked.codes)
    sets.add(std::span(&code, 1), baskets.counts[code], baskets.counts[code]);
  for (ItemSets& each : by_rank) {
    sets.append(each);
    each = {};
  }
  sets.sort();
  for (const ItemSets& each : rare) rare_pairs->append(each);
  return sets;
}

std::uint32_t support_that_fits(const Baskets& baskets, MiningBounds bounds) {
  const auto most = *std::max_element(baskets.counts.begin(), baskets.counts.end());
  while (bounds.least <= most && !mine_sets(baskets, bounds)) bounds.least *= 2;
  return bounds.least;
}

std::vector<std::uint8_t> kept_sets(const ItemSets& sets, OnlySets only) {
  std::vector<std::uint8_t> kept(sets.size(), 1);
  if (only == OnlySets::all) return kept;
  const SetIndex index(sets);
  std::vector<std::uint32_t> part;
  for (std::size_t set = 0; set < sets.size(); ++set) {
    const auto codes = sets.codes(set);
    for (std::size_t left_out = 0; codes.size() > 1 && left_out < codes.size(); ++left_out) {
      part.assign(codes.begin(), codes.end());
      part.erase(part.begin() + static_cast<std::ptrdiff_t>(left_out));
      const auto smaller = index.find(part);
      if (smaller && (only == OnlySets::maximal || sets.baskets(*smaller) == sets.baskets(set)))
        kept[*smaller] = 0;
    }
  }
  return kept;
}

}  // namespace pear::mining
