#include "recommender/steps/calendar_test.hpp"

#include <algorithm>
#include <array>

#include "recommender/parallel_counting.hpp"
#include "recommender/steps/known_customer.hpp"
#include "recommender/steps/product_calendar.hpp"

namespace pear::recommender {
namespace {

constexpr double kLeastExpected = 1e-9;  ///< replaces an expectation of 0, which is a divisor

/// Counts pairs once more, with the baseline of each landmark. One for each thread.
class CalendarCounter {
 public:
  CalendarCounter(const Baseline& base, const ProductCalendar& calendar,
                  const std::vector<std::vector<Step>>& pairs)
      : base_(base),
        calendar_(calendar),
        pairs_(pairs),
        known_(base),
        bought_at_(base.products()),
        begins_(1) {
    for (const auto& own : pairs) begins_.push_back(begins_.back() + own.size());
    counts_.resize(begins_.back());
  }

  void look_at(std::uint32_t customer) {
    const auto history = base_.histories.of(customer);
    std::uint32_t read = 0;
    for_each_landmark(history, base_.landmarks, base_.landmarks.days, [&](const CustomerState& now) {
      for (; read < now.known; ++read)
        if (known_.take(history[read]) && !pairs_[history[read].code].empty())
          own_.push_back(history[read].code);
      if (own_.empty()) return;
      known_.expect(customer, now);
      ++exposure_;
      for (const mining::HistoryEntry& entry : history.subspan(now.known, now.seen - now.known))
        bought_at_[entry.code] = exposure_;
      for (const std::uint32_t earlier : own_)
        for (std::size_t i = 0; i < pairs_[earlier].size(); ++i)
          count(pairs_[earlier][i], counts_[begins_[earlier] + i], base_.groups.group_of(customer), now);
    });
    known_.clear();
    own_.clear();
  }

  void add(const CalendarCounter& other) {
    for (std::size_t pair = 0; pair < counts_.size(); ++pair)
      for (std::size_t band = 0; band < kBands; ++band) counts_[pair][band].add(other.counts_[pair][band]);
  }

  [[nodiscard]] std::array<BandCount, kBands> bands(std::uint32_t earlier, std::size_t pair) const {
    std::array<BandCount, kBands> bands;
    for (std::size_t band = 0; band < kBands; ++band) {
      const Count& own = counts_[begins_[earlier] + pair][band];
      bands[band] = {static_cast<double>(own.purchases), static_cast<double>(own.exposures),
                     std::max(own.expected.value(), own.exposures > 0 ? kLeastExpected : 0)};
    }
    return bands;
  }

 private:
  struct Count {
    std::uint32_t purchases = 0, exposures = 0;
    ProbabilitySum expected;
    void add(const Count& other) {
      purchases += other.purchases, exposures += other.exposures;
      expected.add(other.expected);
    }
  };

  void count(const Step& pair, std::array<Count, kBands>& counts, std::uint32_t group,
             const CustomerState& now) {
    if (pair.earlier != pair.later && known_.last_days[pair.later] != kNever) return;
    Count& own = counts[recency_band(now.day - known_.last_days[pair.earlier])];
    ++own.exposures;
    own.purchases += bought_at_[pair.later] == exposure_ ? 1U : 0U;
    const double items = known_.category_items[base_.categories.of_product[pair.later]];
    own.expected.add(
        base_.probability(items * calendar_.factor(now.landmark, pair.later), group, pair.later));
  }

  const Baseline& base_;
  const ProductCalendar& calendar_;
  const std::vector<std::vector<Step>>& pairs_;
  KnownCustomer known_;
  std::vector<std::uint32_t> own_;        ///< what the present customer has bought, with pairs
  std::uint64_t exposure_ = 0;            ///< the number of the current one
  std::vector<std::uint64_t> bought_at_;  ///< by product the exposure within whose horizon it was bought
  std::vector<std::size_t> begins_;       ///< by earlier product, in counts_
  std::vector<std::array<Count, kBands>> counts_;
};

}  // namespace

void test_with_calendar(const Baseline& base, std::vector<std::vector<Step>>& pairs) {
  const ProductCalendar calendar = ProductCalendar::fit(base);
  tbb::enumerable_thread_specific<CalendarCounter> counters(
      [&] { return CalendarCounter(base, calendar, pairs); });
  look_at_all(base.histories, counters);
  const CalendarCounter& all = added_up(counters);
  for (std::uint32_t earlier = 0; earlier < pairs.size(); ++earlier) {
    for (std::size_t i = 0; i < pairs[earlier].size(); ++i) {
      const auto bands = all.bands(earlier, i);
      Step& pair = pairs[earlier][i];
      pair.p = std::max(pair.p, most_significant_window(bands, base.landmarks.overlap).p);
      pair.uplift_lower_bound =
          std::min(pair.uplift_lower_bound, uplift_lower_bound(bands, base.landmarks.overlap));
    }
  }
}

}  // namespace pear::recommender
