#include "recommender/steps/product_calendar.hpp"

#include <algorithm>

#include "recommender/parallel_counting.hpp"
#include "recommender/steps/known_customer.hpp"

namespace pear::recommender {
namespace {

/// Counts customers who had not bought a product, and the first purchases. One for each thread.
class FirstCounter {
 public:
  explicit FirstCounter(const Baseline& base)
      : base_(base),
        known_(base),
        categories_(base.landmarks.days.size() * base.groups.count * base.categories.count),
        had_(base.landmarks.days.size() * base.products()),
        firsts_(had_.size()) {}

  void look_at(std::uint32_t customer) {
    const auto history = base_.histories.of(customer);
    const std::uint32_t group = base_.groups.group_of(customer);
    std::uint32_t read = 0;
    for_each_landmark(history, base_.landmarks, base_.landmarks.days, [&](const CustomerState& now) {
      for (; read < now.known; ++read) known_.take(history[read]);
      known_.expect(customer, now);
      CategorySum* sums = &categories_[(now.landmark * base_.groups.count + group) * base_.categories.count];
      for (std::size_t category = 0; category < known_.category_items.size(); ++category)
        sums[category].add(known_.category_items[category]);
      const std::size_t begin = now.landmark * base_.products();
      for (std::size_t i = 0; i < known_.had.size(); ++i)
        had_[begin + known_.had[i]].add(known_.had_probabilities[i]);
      for (const mining::HistoryEntry& entry : history.subspan(now.known, now.seen - now.known))
        if (entry.is_first != 0) ++firsts_[begin + entry.code];
    });
    known_.clear();
  }

  void add(const FirstCounter& other) {
    for (std::size_t i = 0; i < categories_.size(); ++i) categories_[i].add(other.categories_[i]);
    for (std::size_t i = 0; i < had_.size(); ++i) {
      had_[i].add(other.had_[i]);
      firsts_[i] += other.firsts_[i];
    }
  }

  [[nodiscard]] double factor(std::size_t landmark, std::uint32_t product) const {
    constexpr double kPriorWeight = 10;
    const std::size_t at = landmark * base_.products() + product;
    const CategorySum* sums = &categories_[landmark * base_.groups.count * base_.categories.count];
    const double expected = expected_purchases(base_, sums, product) - had_[at].value();
    return (firsts_[at] + kPriorWeight) / (std::max(expected, 0.0) + kPriorWeight);
  }

 private:
  const Baseline& base_;
  KnownCustomer known_;
  std::vector<CategorySum> categories_;  ///< by landmark, group and category
  std::vector<ProbabilitySum> had_;      ///< by landmark and product: of customers who had bought it
  std::vector<std::uint32_t> firsts_;    ///< by landmark and product
};

}  // namespace

ProductCalendar ProductCalendar::fit(const Baseline& base) {
  tbb::enumerable_thread_specific<FirstCounter> counters([&] { return FirstCounter(base); });
  look_at_all(base.histories, counters);
  const FirstCounter& all = added_up(counters);
  ProductCalendar calendar;
  calendar.products_ = base.products();
  calendar.factors_.reserve(base.landmarks.days.size() * base.products());
  for (std::size_t landmark = 0; landmark < base.landmarks.days.size(); ++landmark)
    for (std::uint32_t product = 0; product < base.products(); ++product)
      calendar.factors_.push_back(static_cast<float>(all.factor(landmark, product)));
  return calendar;
}

}  // namespace pear::recommender
