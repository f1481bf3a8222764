#include "recommender/rates/purchase_rates.hpp"

#include "recommender/parallel_counting.hpp"

namespace pear::recommender {
namespace {

/// Counts one customer after another. One for each thread.
class RateCounter {
 public:
  RateCounter(const mining::Histories& histories, const Landmarks& landmarks,
              const analysis::CustomerGroups& groups)
      : histories_(histories),
        landmarks_(landmarks),
        groups_(groups),
        products_(histories.counts.size()),
        looked_at_(groups.count),
        had_(groups.count * products_),
        purchases_(groups.count * products_) {}

  void look_at(std::uint32_t customer) {
    const auto history = histories_.of(customer);
    const std::uint32_t group = groups_.group_of(customer);
    had_now_.clear();
    std::uint32_t read = 0;
    bool is_new = true;
    for_each_landmark(history, landmarks_, landmarks_.days, [&](const CustomerState& now) {
      for (; read < now.known; ++read)
        if (history[read].is_first != 0) had_now_.push_back(history[read].code);
      const Observed exposure{1, 0, is_new ? 1U : 0U};
      looked_at_[group].add(exposure);
      for (const std::uint32_t code : had_now_) had_[group * products_ + code].add(exposure);
      for (std::uint32_t entry = now.known; entry < now.seen; ++entry)
        if (history[entry].is_first != 0) ++purchases_[group * products_ + history[entry].code];
      is_new = false;
    });
  }

  void add(const RateCounter& other) {
    for (std::size_t group = 0; group < looked_at_.size(); ++group)
      looked_at_[group].add(other.looked_at_[group]);
    for (std::size_t place = 0; place < had_.size(); ++place) {
      had_[place].add(other.had_[place]);
      purchases_[place] += other.purchases_[place];
    }
  }

  /// Customers who had not bought the product.
  [[nodiscard]] Observed without(std::size_t group, std::size_t product) const {
    const std::size_t place = group * products_ + product;
    return {looked_at_[group].exposures - had_[place].exposures, purchases_[place],
            looked_at_[group].customers - had_[place].customers};
  }

 private:
  const mining::Histories& histories_;
  const Landmarks& landmarks_;
  const analysis::CustomerGroups& groups_;
  std::size_t products_;
  std::vector<Observed> looked_at_;       ///< by group
  std::vector<Observed> had_;             ///< by group and product: exposures of those who had bought it
  std::vector<std::uint32_t> purchases_;  ///< by group and product: first ones
  std::vector<std::uint32_t> had_now_;    ///< what the customer had bought by the landmark
};

}  // namespace

PurchaseRates PurchaseRates::count(const mining::Histories& histories, const Landmarks& landmarks,
                                   const analysis::CustomerGroups& groups) {
  tbb::enumerable_thread_specific<RateCounter> counters(
      [&] { return RateCounter(histories, landmarks, groups); });
  look_at_all(histories, counters);
  const RateCounter& all = added_up(counters);
  PurchaseRates rates;
  rates.of_all_.resize(histories.counts.size());
  for (std::size_t group = 0; group < groups.count; ++group)
    for (std::size_t product = 0; product < rates.of_all_.size(); ++product) {
      rates.of_group_.push_back(all.without(group, product));
      rates.of_all_[product].add(rates.of_group_.back());
    }
  return rates;
}

}  // namespace pear::recommender
