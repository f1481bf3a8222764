#include "recommender/steps/step_tests.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <utility>

#include <tbb/parallel_for.h>

#include "recommender/parallel_counting.hpp"
#include "recommender/steps/calendar_test.hpp"
#include "recommender/steps/known_customer.hpp"
#include "statistics/significance.hpp"
#include "statistics/wilson_interval.hpp"

namespace pear::recommender {
namespace {

constexpr std::uint64_t kFewestPurchases = 3;  ///< fewer are not significant in any reasonable test
constexpr double kLeastUplift = 0.02;          ///< a smaller one changes no plan, and there are very many
constexpr double kMayPass = 0.01;  ///< pairs with a larger p value cannot pass among this many tests
constexpr double kTiny = 1e-9;     ///< replaces an expectation of 0, which is a divisor

/// Each pair is tested over the days since the earlier purchase up to the beginning of these bands, and over
/// all of them, so that quick follow-ups are not lost among years of data.
constexpr std::array<std::int32_t, 4> kWindows = {30, 60, 120, INT32_MAX};

/// Of the exposures of an earlier product and a band: purchases of a later product, and customers who had it
/// before.
struct PairCount {
  std::uint32_t purchases = 0, had_exposures = 0;
  ProbabilitySum had_expected;

  void add(const PairCount& other) {
    purchases += other.purchases, had_exposures += other.had_exposures;
    had_expected.add(other.had_expected);
  }
};

/// Counts of the pairs of the products of a block with all others. A place is an earlier product of the block
/// and a band.
struct BlockCounts {
  std::vector<std::uint32_t> exposures;  ///< by place
  SparseCounts<PairCount> pairs;         ///< by place, then later product
  std::vector<CategorySum> categories;   ///< by place, then group and category

  BlockCounts(const Baseline& base, std::size_t most_products)
      : exposures(most_products * kBands),
        pairs(exposures.size() * base.products()),
        categories(exposures.size() * base.groups.count * base.categories.count) {}

  /// Memory for each product of a block.
  static std::size_t bytes_per_product(const Baseline& base) {
    return kBands * (base.products() * sizeof(PairCount) +
                     base.groups.count * base.categories.count * sizeof(CategorySum));
  }
  void add(const BlockCounts& other) {
    for (std::size_t i = 0; i < exposures.size(); ++i) exposures[i] += other.exposures[i];
    pairs.add(other.pairs);
    for (std::size_t i = 0; i < categories.size(); ++i) categories[i].add(other.categories[i]);
  }
  void clear() {
    std::fill(exposures.begin(), exposures.end(), 0);
    pairs.clear();
    std::fill(categories.begin(), categories.end(), CategorySum{});
  }
};

/// Counts the pairs of a block, one customer after another. One for each thread.
class PairCounter {
 public:
  PairCounter(const Baseline& base, std::size_t most_products)
      : base_(base), counts_(base, most_products), known_(base) {}

  void begin(const ProductBlock& block) {
    block_ = &block;
    counts_.clear();
    purchased_.clear();
  }

  void look_at(std::uint32_t customer) {
    const auto history = base_.histories.of(customer);
    std::uint32_t read = 0;
    for_each_landmark(history, base_.landmarks, base_.landmarks.days, [&](const CustomerState& now) {
      for (; read < now.known; ++read)
        if (known_.take(history[read]) && block_->holds(history[read].code))
          own_.push_back(history[read].code);
      if (own_.empty()) return;
      known_.expect(customer, now);
      bought_.clear(), again_.clear();
      for (const mining::HistoryEntry& entry : history.subspan(now.known, now.seen - now.known)) {
        if (entry.is_first != 0) bought_.push_back(entry.code);
        if (block_->holds(entry.code)) again_.push_back(entry.code);
      }
      for (const std::uint32_t earlier : own_) count(earlier, base_.groups.group_of(customer), now.day);
    });
    known_.clear();
    own_.clear();
  }

  void add(const PairCounter& other) {
    counts_.add(other.counts_);
    purchased_.insert(purchased_.end(), other.purchased_.begin(), other.purchased_.end());
  }

  /// The pairs that may pass a test, by earlier and then later product.
  void read(std::vector<std::vector<Step>>& tested) const {
    std::vector<std::vector<std::uint32_t>> later(block_->size());
    for (const auto& [earlier, product] : purchased_) later[earlier - block_->begin].push_back(product);
    for (std::size_t place = 0; place < later.size(); ++place) {
      auto& products = later[place];
      std::sort(products.begin(), products.end());
      products.erase(std::unique(products.begin(), products.end()), products.end());
      const auto earlier = static_cast<std::uint32_t>(block_->begin + place);
      for (const std::uint32_t product : products) test(earlier, product, tested[earlier]);
    }
  }

 private:
  void count(std::uint32_t earlier, std::uint32_t group, std::int32_t day) {
    const std::size_t place = place_of(earlier, recency_band(day - known_.last_days[earlier]));
    ++counts_.exposures[place];
    CategorySum* sums = &counts_.categories[(place * base_.groups.count + group) * base_.categories.count];
    for (std::size_t category = 0; category < known_.category_items.size(); ++category)
      sums[category].add(known_.category_items[category]);
    const std::size_t first = place * base_.products();
    for (std::size_t i = 0; i < known_.had.size(); ++i) {
      const std::uint32_t had = known_.had[i];
      if (had == earlier) continue;
      PairCount& pair = counts_.pairs[first + had];
      ++pair.had_exposures;
      pair.had_expected.add(known_.had_probabilities[i]);
    }
    for (const std::uint32_t later : bought_) add_purchase(first, earlier, later);
    if (std::find(again_.begin(), again_.end(), earlier) != again_.end())
      add_purchase(first, earlier, earlier);
  }

  void add_purchase(std::size_t first, std::uint32_t earlier, std::uint32_t later) {
    if (counts_.pairs[first + later].purchases++ == 0) purchased_.emplace_back(earlier, later);
  }

  [[nodiscard]] std::size_t place_of(std::uint32_t earlier, std::size_t band) const {
    return (earlier - block_->begin) * kBands + band;
  }

  /// Of all exposures of a place without those who had the product before.
  [[nodiscard]] double expected(std::size_t place, std::uint32_t later) const {
    const CategorySum* sums = &counts_.categories[place * base_.groups.count * base_.categories.count];
    const double had = counts_.pairs.at(place * base_.products() + later).had_expected.value();
    return std::max(expected_purchases(base_, sums, later) - had, kTiny);
  }

  void test(std::uint32_t earlier, std::uint32_t later, std::vector<Step>& found) const {
    std::uint32_t purchases = 0;
    for (std::size_t band = 0; band < kBands; ++band)
      purchases += counts_.pairs.at(place_of(earlier, band) * base_.products() + later).purchases;
    if (purchases < kFewestPurchases * base_.landmarks.overlap) return;
    std::array<BandCount, kBands> bands{};
    for (std::size_t band = 0; band < kBands; ++band) {
      const std::size_t place = place_of(earlier, band);
      const PairCount& count = counts_.pairs.at(place * base_.products() + later);
      if (counts_.exposures[place] == count.had_exposures) continue;
      bands[band] = {static_cast<double>(count.purchases),
                     static_cast<double>(counts_.exposures[place] - count.had_exposures),
                     expected(place, later)};
    }
    const double p = most_significant_window(bands, base_.landmarks.overlap).p;
    if (p < kMayPass)
      found.push_back({earlier, later, p, uplift_lower_bound(bands, base_.landmarks.overlap)});
  }

  const Baseline& base_;
  const ProductBlock* block_ = nullptr;
  BlockCounts counts_;
  std::vector<std::pair<std::uint32_t, std::uint32_t>> purchased_;  ///< pairs with purchases, of any band
  KnownCustomer known_;
  std::vector<std::uint32_t> own_;             ///< what the present customer has bought, of the block
  std::vector<std::uint32_t> bought_, again_;  ///< in the horizon: for the first time; of the block
};

/// All pairs that may pass a test, by earlier product.
std::vector<std::vector<Step>> count_pairs(const Baseline& base) {
  std::vector<std::vector<Step>> tested(base.products());
  count_blocks(
      base.histories, blocks_of(base.histories, BlockCounts::bytes_per_product(base)),
      [&](std::size_t most_products) { return PairCounter(base, most_products); },
      [&](const PairCounter& all) { all.read(tested); });
  return tested;
}

/// The q values of all pairs, in their order: each kind separately.
std::vector<double> q_values_by_kind(const std::vector<std::vector<Step>>& tested,
                                     const ScreenedPairs& screened) {
  std::array<std::vector<double>, kPairKinds> p_values;
  std::vector<std::size_t> kinds;
  for (const auto& pairs : tested)
    for (const Step& pair : pairs) {
      kinds.push_back(static_cast<std::size_t>(screened.kind(pair.earlier, pair.later)));
      p_values[kinds.back()].push_back(pair.p);
    }
  std::array<std::vector<double>, kPairKinds> q;
  for (std::size_t kind = 0; kind < kPairKinds; ++kind)
    q[kind] = statistics::q_values(p_values[kind], screened.pairs(static_cast<PairKind>(kind)));
  std::array<std::size_t, kPairKinds> next{};
  std::vector<double> all;
  for (const std::size_t kind : kinds) all.push_back(q[kind][next[kind]++]);
  return all;
}

/// With a q value of at most 5%, and an uplift that is worth an offer.
void keep_significant(std::vector<std::vector<Step>>& tested, const ScreenedPairs& screened) {
  const std::vector<double> q = q_values_by_kind(tested, screened);
  std::size_t next = 0;
  for (auto& steps : tested)
    std::erase_if(steps, [&](const Step& step) {
      return q[next++] > statistics::kFalseDiscovery || step.uplift_lower_bound < kLeastUplift;
    });
}

}  // namespace

double uplift_lower_bound(std::span<const BandCount> bands, double overlap) {
  double most = 0;
  BandCount sum;
  for (const BandCount& band : bands) {
    sum.add(band);
    const auto exposures = static_cast<std::uint64_t>(sum.exposures / overlap);
    const auto purchases = std::min(exposures, static_cast<std::uint64_t>(sum.purchases / overlap));
    if (exposures > 0)
      most = std::max(most,
                      statistics::wilson_interval(purchases, exposures).low - sum.expected / sum.exposures);
  }
  return most;
}

RecencyWindow most_significant_window(std::span<const BandCount> bands, double overlap) {
  RecencyWindow best{1, bands.size()};
  BandCount sum;
  std::size_t window = 0;
  const auto end_window = [&](std::size_t end) {
    ++window;
    const auto part = static_cast<std::uint64_t>(sum.purchases / overlap),
               whole = static_cast<std::uint64_t>(sum.exposures / overlap);
    if (sum.purchases <= sum.expected || part < kFewestPurchases || part > whole) return;
    const double p = kWindows.size() * statistics::probability_of_at_least(
                                           part, whole, std::min(1.0, sum.expected / sum.exposures));
    if (p < best.p) best = {p, end};
  };
  for (std::size_t band = 0; band < bands.size(); ++band) {
    if (kRecencyBands[band] == kWindows[window]) end_window(band);
    sum.add(bands[band]);
  }
  end_window(bands.size());
  return best;
}

std::vector<Step> find_steps(const Baseline& base, const ScreenedPairs& screened) {
  std::vector<std::vector<Step>> tested = count_pairs(base);
  // The calendar only makes p values larger and uplifts smaller, so the others cannot pass. They count as
  // tests, with a p value of 1.
  keep_significant(tested, screened);
  test_with_calendar(base, tested);
  keep_significant(tested, screened);
  std::vector<Step> found;
  for (const auto& steps : tested) found.insert(found.end(), steps.begin(), steps.end());
  return found;
}

}  // namespace pear::recommender
