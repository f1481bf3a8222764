#include "recommender/steps/pair_screening.hpp"

#include <algorithm>
#include <utility>

#include "base/pair_key.hpp"
#include "recommender/parallel_counting.hpp"
#include "statistics/significance.hpp"

namespace pear::recommender {
namespace {

constexpr std::uint32_t kFewestTested = 5;  ///< customers, or orders, of a pair that is tested

/// What customers of one product did with another.
struct Link {
  std::uint32_t product = 0;
  std::uint32_t one_way = 0;   ///< bought it after the first one, and never before
  std::uint32_t together = 0;  ///< orders with both
};

using Links = std::vector<std::vector<Link>>;  ///< by product

/// Screens the pairs of the products of a block, one customer after another. One for each thread.
class LinkCounter {
 public:
  LinkCounter(const mining::Histories& histories, std::size_t most_products)
      : histories_(histories),
        counts_(most_products * histories.counts.size()),
        spans_(histories.counts.size()) {}

  void begin(const ProductBlock& block) {
    block_ = &block;
    counts_.clear();
  }

  void look_at(std::uint32_t customer) {
    const auto history = histories_.of(customer);
    bought_.clear(), own_.clear();
    for (const mining::HistoryEntry& entry : history) {
      Span& span = spans_[entry.code];
      if (span.first == INT32_MIN) {
        span.first = entry.day;
        bought_.push_back(entry.code);
        if (block_->holds(entry.code)) own_.push_back(entry.code);
      }
      span.last = entry.day;
    }
    for (const std::uint32_t product : own_) {
      const Span own = spans_[product];
      for (const std::uint32_t other : bought_) {
        const Span span = spans_[other];
        if (span.first >= own.last && span.last != own.first) ++count(product, other).one_way;
      }
    }
    for (const std::uint32_t product : bought_) spans_[product] = {};
    count_orders(history);
  }

  void add(const LinkCounter& other) { counts_.add(other.counts_); }

  /// Of each product of the block, in order of the other product.
  void read(Links& screened) const {
    std::vector<std::size_t> places = counts_.used();
    std::sort(places.begin(), places.end());
    for (const std::size_t place : places) {
      const std::size_t product = block_->begin + place / spans_.size(), other = place % spans_.size();
      const Count& own = counts_.at(place);
      if (other != product)
        screened[product].push_back({static_cast<std::uint32_t>(other), own.one_way, own.together});
    }
  }

  struct Count {
    std::uint32_t one_way = 0, together = 0;
    void add(const Count& other) { one_way += other.one_way, together += other.together; }
  };

 private:
  struct Span {
    std::int32_t first = INT32_MIN, last = INT32_MIN;
  };

  Count& count(std::uint32_t product, std::uint32_t other) {
    return counts_[(product - block_->begin) * spans_.size() + other];
  }

  void count_orders(std::span<const mining::HistoryEntry> history) {
    for (std::size_t begin = 0, end = 0; begin < history.size(); begin = end) {
      while (end < history.size() && history[end].order == history[begin].order) ++end;
      for (std::size_t i = begin; i < end; ++i)
        for (std::size_t other = begin; block_->holds(history[i].code) && other < end; ++other)
          ++count(history[i].code, history[other].code).together;
    }
  }

  const mining::Histories& histories_;
  const ProductBlock* block_ = nullptr;
  SparseCounts<Count> counts_;  ///< by product of the block, then other product
  std::vector<Span> spans_;     ///< by product
  std::vector<std::uint32_t> bought_, own_;
};

const Link* find(const Links& screened, std::uint32_t a, std::uint32_t b) {
  const auto& own = screened[a];
  const auto found = std::lower_bound(
      own.begin(), own.end(), b, [](const Link& link, std::uint32_t other) { return link.product < other; });
  return found == own.end() || found->product != b ? nullptr : &*found;
}

/// A pair that is tested, and the counts of its test.
struct TestedPair {
  std::uint64_t key = 0;
  std::uint64_t count = 0, other = 0;
};

/// The tested pairs among the links of all products, on all threads: `add(product, link, pairs)` adds one if
/// it is tested.
template <class Add>
std::vector<TestedPair> tested_pairs(const Links& screened, const Add& add) {
  std::vector<std::vector<TestedPair>> by_product(screened.size());
  tbb::parallel_for(std::uint32_t{0}, static_cast<std::uint32_t>(screened.size()),
                    [&](std::uint32_t product) {
                      for (const Link& link : screened[product]) add(product, link, by_product[product]);
                    });
  std::vector<TestedPair> pairs;
  for (const auto& own : by_product) pairs.insert(pairs.end(), own.begin(), own.end());
  return pairs;
}

/// The pairs with a q value of up to 5%, if `tests` is the number of tests. p values are computed on all
/// threads.
template <class PValue>
absl::flat_hash_set<std::uint64_t> significant(const std::vector<TestedPair>& pairs, std::size_t tests,
                                               const PValue& p_value) {
  std::vector<double> p_values(pairs.size());
  tbb::parallel_for(tbb::blocked_range<std::size_t>(0, pairs.size()), [&](const auto& run) {
    for (std::size_t i = run.begin(); i != run.end(); ++i) p_values[i] = p_value(pairs[i]);
  });
  const std::vector<double> q = statistics::q_values(p_values, std::max(tests, pairs.size()));
  absl::flat_hash_set<std::uint64_t> found;
  for (std::size_t i = 0; i < pairs.size(); ++i)
    if (q[i] <= statistics::kFalseDiscovery) found.insert(pairs[i].key);
  return found;
}

/// The pairs whose direction is significant, from the earlier to the later one.
absl::flat_hash_set<std::uint64_t> directed(const Links& screened) {
  const std::vector<TestedPair> pairs =
      tested_pairs(screened, [&](std::uint32_t a, const Link& link, std::vector<TestedPair>& own) {
        const Link* back = find(screened, link.product, a);
        const std::uint32_t back_way = back == nullptr ? 0 : back->one_way;
        const bool is_counted = link.one_way > back_way || (link.one_way == back_way && a < link.product);
        if (is_counted && link.one_way + back_way >= kFewestTested)
          own.push_back({pair_key(a, link.product), link.one_way, back_way});
      });
  return significant(pairs, 0,
                     [](const TestedPair& pair) { return statistics::sign_test(pair.count, pair.other); });
}

/// The pairs that orders contain more often than expected by chance, in both directions.
absl::flat_hash_set<std::uint64_t> associated(const Links& screened, const mining::Histories& histories) {
  std::vector<std::uint64_t> orders(screened.size());
  std::uint64_t all = 0, frequent = 0;
  for (std::uint32_t customer = 0; customer < histories.customers(); ++customer) {
    const auto history = histories.of(customer);
    for (std::size_t i = 0; i < history.size(); ++i) {
      ++orders[history[i].code];
      all += i == 0 || history[i].order != history[i - 1].order ? 1U : 0U;
    }
  }
  for (const std::uint64_t count : orders) frequent += count >= kFewestTested ? 1U : 0U;
  const std::vector<TestedPair> pairs =
      tested_pairs(screened, [&](std::uint32_t a, const Link& link, std::vector<TestedPair>& own) {
        const double expected = static_cast<double>(orders[a]) * static_cast<double>(orders[link.product]) /
                                static_cast<double>(all);
        if (link.product >= a && link.together >= kFewestTested && link.together > expected)
          own.push_back({pair_key(a, link.product), link.together, 0});
      });
  absl::flat_hash_set<std::uint64_t> found =
      significant(pairs, frequent * (frequent - 1) / 2, [&](const TestedPair& pair) {
        const auto [a, b] = pair_of(pair.key);
        return statistics::probability_of_overlap(pair.count, orders[a], orders[b], all);
      });
  const std::vector<std::uint64_t> one_way(found.begin(), found.end());
  for (const std::uint64_t pair : one_way) found.insert(pair_key(pair_of(pair).second, pair_of(pair).first));
  return found;
}

}  // namespace

ScreenedPairs ScreenedPairs::screen(const mining::Histories& histories) {
  ScreenedPairs pairs;
  const std::size_t products = histories.counts.size();
  Links screened(products);
  count_blocks(
      histories, blocks_of(histories, products * sizeof(LinkCounter::Count)),
      [&](std::size_t most_products) { return LinkCounter(histories, most_products); },
      [&](const LinkCounter& all) { all.read(screened); });
  pairs.next_ = directed(screened);
  pairs.together_ = associated(screened, histories);
  for (const std::uint64_t pair : pairs.next_) pairs.together_.erase(pair);
  const auto bought = static_cast<std::uint64_t>(std::count_if(
      histories.counts.begin(), histories.counts.end(), [](std::uint32_t count) { return count > 0; }));
  pairs.pairs_ = {bought, pairs.next_.size(), pairs.together_.size(),
                  bought * bought - bought - pairs.next_.size() - pairs.together_.size()};
  return pairs;
}

PairKind ScreenedPairs::kind(std::uint32_t earlier, std::uint32_t later) const {
  if (earlier == later) return PairKind::again;
  if (next_.contains(pair_key(earlier, later))) return PairKind::next;
  return together_.contains(pair_key(earlier, later)) ? PairKind::together : PairKind::other;
}

}  // namespace pear::recommender
