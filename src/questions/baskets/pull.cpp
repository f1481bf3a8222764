#include "questions/baskets/pull.hpp"

#include <algorithm>
#include <boost/math/distributions/students_t.hpp>
#include <cmath>
#include <memory>
#include <span>
#include <utility>

#include <tbb/enumerable_thread_specific.h>
#include <tbb/parallel_for.h>
#include <tbb/parallel_invoke.h>

#include "questions/baskets/expected_value.hpp"
#include "questions/baskets/similar_baskets.hpp"

namespace pear::baskets {
namespace {

/// The baskets of one customer with an item.
struct Comparison {
  double difference = 0, baskets = 0;  ///< of the value of the other items, summed over these baskets
  double score = 0;                    ///< for the test
};

class PullFinder {
 public:
  PullFinder(ValuedBaskets baskets, std::size_t items) {
    tbb::parallel_invoke([&] { list_occurrences(baskets, items); }, [&] { list_baskets(baskets); });
    values_ = std::move(baskets.values);
  }

  /// `others` is cleared before it is used.
  [[nodiscard]] std::optional<Pull> of(std::size_t code, OtherBaskets& others) const {
    const std::vector<Occurrence> all = occurrences(code);
    std::vector<Comparison> compared;
    std::vector<std::pair<Occurrences, std::optional<double>>> to_others;  // with the score, if it is known
    for (std::size_t i = 0, end = 0; i < all.size(); i = end) {
      while (end < all.size() && all[end].basket.customer == all[i].basket.customer) ++end;
      const Occurrences of_customer(&all[i], end - i);
      const Within within(customers_[all[i].basket.customer], of_customer);
      if (within.has_enough())
        compared.push_back(within.compared());
      else
        to_others.emplace_back(of_customer,
                               within.has_others() ? std::optional(within.score()) : std::nullopt);
    }
    others.clear();
    if (to_others.empty()) return pull_of(compared, 0);
    for (const Occurrence& each : all) others.leave_out(each.basket.cell, each.basket.value);
    for (const auto& [of_customer, score] : to_others)
      if (const Comparison each = among_others(of_customer, others, score); each.baskets > 0)
        compared.push_back(each);
    return pull_of(compared, others.variance());
  }
  [[nodiscard]] const SimilarBaskets& similar() const { return *similar_; }

 private:
  struct Basket {
    double value = 0;
    double expected_of_item = 0;
    std::uint32_t size = 0, customer = 0;  ///< its place in customers_
    std::uint32_t cell = 0;                ///< of similar baskets
  };
  struct Customer {
    double value = 0, expected = 0;
    std::uint32_t baskets = 0, items = 0;
  };
  struct Occurrence {  ///< of an item in a basket
    double value = 0;  ///< of the item
    Basket basket;
  };
  using Occurrences = std::span<const Occurrence>;

  void list_baskets(const ValuedBaskets& baskets) {
    const ExpectedValue model(baskets);
    similar_.emplace(baskets, model.values());
    baskets_.reserve(baskets.size());
    for (std::size_t i = 0; i < baskets.size(); ++i) {
      if (i == 0 || baskets.customers[i] != baskets.customers[i - 1]) customers_.emplace_back();
      const Basket basket{static_cast<double>(model.values()[i]), model.of_item(i), baskets.size_of(i),
                          static_cast<std::uint32_t>(customers_.size() - 1),
                          similar_->cell_of(baskets.size_of(i), baskets.months[i])};
      Customer& customer = customers_.back();
      customer.value += basket.value;
      customer.expected += basket.size * basket.expected_of_item;
      customer.items += basket.size;
      ++customer.baskets;
      baskets_.push_back(basket);
    }
  }

  void list_occurrences(const ValuedBaskets& baskets, std::size_t items) {
    begins_.resize(items + 1);
    for (const std::uint32_t code : baskets.codes) ++begins_[code + 1];
    for (std::size_t code = 0; code < items; ++code) begins_[code + 1] += begins_[code];
    places_ = std::make_unique_for_overwrite<std::uint32_t[]>(baskets.codes.size());
    basket_of_ = std::make_unique_for_overwrite<std::uint32_t[]>(baskets.codes.size());
    std::vector<std::uint32_t> next(begins_.begin(), begins_.end() - 1);
    for (std::uint32_t basket = 0; basket < baskets.size(); ++basket) {
      for (std::uint32_t i = baskets.begins[basket]; i < baskets.begins[basket + 1]; ++i) {
        const std::uint32_t place = next[baskets.codes[i]]++;
        places_[place] = i;
        basket_of_[place] = basket;
      }
    }
  }

  /// Copies what is spread all over memory to one place, fetched ahead: waiting for one after another would
  /// take most of the time.
  [[nodiscard]] std::vector<Occurrence> occurrences(std::size_t code) const {
    constexpr std::uint32_t kAhead = 24;
    const std::uint32_t end = begins_[code + 1];
    std::vector<Occurrence> all;
    all.reserve(end - begins_[code]);
    for (std::uint32_t i = begins_[code]; i < end; ++i) {
      const std::uint32_t later = std::min(i + kAhead, end - 1);
      __builtin_prefetch(&values_[places_[later]]);
      __builtin_prefetch(&baskets_[basket_of_[later]]);
      all.push_back({static_cast<double>(values_[places_[i]]), baskets_[basket_of_[i]]});
      __builtin_prefetch(&customers_[all.back().basket.customer]);
    }
    return all;
  }

  /// The baskets of a customer with the item, and the others.
  class Within {
   public:
    Within(const Customer& customer, Occurrences occurrences)
        : baskets_(static_cast<double>(occurrences.size())),
          other_baskets_(customer.baskets - occurrences.size()),
          other_items_(customer.items),
          others_(customer.value),
          expected_others_(customer.expected) {
      for (const auto& [value, basket] : occurrences) {
        rest_items_ += basket.size - 1;
        other_items_ -= basket.size;
        others_ -= basket.value;
        expected_others_ -= basket.size * basket.expected_of_item;
        rest_ += basket.value - value;
        expected_rest_ += (basket.size - 1) * basket.expected_of_item;
      }
    }

    [[nodiscard]] bool has_others() const { return other_baskets_ > 0; }
    /// Whether the other baskets contain as many items as are compared with them.
    [[nodiscard]] bool has_enough() const { return has_others() && other_items_ >= rest_items_; }
    [[nodiscard]] Comparison compared() const {
      return {rest_ - expected_rest_ / expected_others_ * others_, baskets_, score()};
    }
    /// Of the Poisson regression: the less a customer's baskets can be compared, the smaller.
    [[nodiscard]] double score() const {
      const double share = expected_others_ / (expected_others_ + expected_rest_);
      return share * rest_ - (1 - share) * others_;
    }

   private:
    double baskets_;
    std::size_t other_baskets_, other_items_, rest_items_ = 0;
    double others_, expected_others_, rest_ = 0, expected_rest_ = 0;
  };

  /// Baskets with the item compared with other customers' baskets of the same size. The score is the
  /// difference, unless there is one from the customer's own baskets.
  [[nodiscard]] Comparison among_others(Occurrences occurrences, OtherBaskets& others,
                                        const std::optional<double>& score) const {
    Comparison compared;
    for (const auto& [value, basket] : occurrences) {
      const double share = (basket.size - 1.0) / basket.size;
      if (basket.size > 1) {
        const std::optional<double> mean = others.mean_like(basket.cell, share);
        if (!mean) continue;
        compared.difference += basket.value - value - share * *mean;
      }
      ++compared.baskets;
    }
    compared.score = score.value_or(compared.difference);
    return compared;
  }

  /// With customers as clusters. Means of other customers' baskets vary, too.
  static std::optional<Pull> pull_of(const std::vector<Comparison>& compared, double variance_of_others) {
    double difference = 0, baskets = 0, baskets_squared = 0, score = 0, score_variance = variance_of_others;
    for (const Comparison& each : compared) {
      difference += each.difference;
      baskets += each.baskets;
      baskets_squared += each.baskets * each.baskets;
      score += each.score;
      score_variance += each.score * each.score;
    }
    if (baskets == 0) return {};
    Pull pull{difference / baskets, NAN, NAN, 1};
    const double clusters = baskets * baskets / baskets_squared;  // as many as if all had as many baskets
    if (clusters < 2) return pull;
    double variance = variance_of_others;
    for (const Comparison& each : compared)
      variance += std::pow(each.difference - pull.pull * each.baskets, 2) * clusters / (clusters - 1);
    const boost::math::students_t t(clusters - 1);
    const double half =
        boost::math::quantile(boost::math::complement(t, 0.025)) * std::sqrt(variance) / baskets;
    pull.low = pull.pull - half;
    pull.high = pull.pull + half;
    if (score_variance > 0)
      pull.p_value = boost::math::cdf(boost::math::complement(t, score / std::sqrt(score_variance)));
    return pull;
  }

  std::optional<SimilarBaskets> similar_;
  std::vector<Basket> baskets_;
  std::vector<Customer> customers_;
  std::vector<std::int64_t> values_;                     ///< of items in baskets
  std::vector<std::uint32_t> begins_;                    ///< by code its first occurrence, and the end
  std::unique_ptr<std::uint32_t[]> places_, basket_of_;  ///< written once, so not cleared first
};

}  // namespace

ValuedBaskets joined(std::vector<ValuedBaskets> blocks) {
  ValuedBaskets all;
  std::size_t baskets = 0, items = 0;
  for (const ValuedBaskets& block : blocks) {
    baskets += block.size();
    items += block.codes.size();
  }
  all.customers.reserve(baskets);
  all.months.reserve(baskets);
  all.begins.reserve(baskets + 1);
  all.codes.reserve(items);
  all.values.reserve(items);
  for (ValuedBaskets& block : blocks) {
    const auto base = static_cast<std::uint32_t>(all.codes.size());
    for (std::size_t basket = 1; basket < block.begins.size(); ++basket)
      all.begins.push_back(base + block.begins[basket]);
    all.customers.insert(all.customers.end(), block.customers.begin(), block.customers.end());
    all.months.insert(all.months.end(), block.months.begin(), block.months.end());
    all.codes.insert(all.codes.end(), block.codes.begin(), block.codes.end());
    all.values.insert(all.values.end(), block.values.begin(), block.values.end());
    block = {};
  }
  return all;
}

std::vector<std::optional<Pull>> find_pulls(ValuedBaskets baskets, std::size_t items) {
  std::vector<std::optional<Pull>> pulls(items);
  if (baskets.size() == 0) return pulls;
  const PullFinder finder(std::move(baskets), items);
  tbb::enumerable_thread_specific<OtherBaskets> others([&] { return OtherBaskets(finder.similar()); });
  tbb::parallel_for(std::size_t{0}, items,
                    [&](std::size_t code) { pulls[code] = finder.of(code, others.local()); });
  return pulls;
}

}  // namespace pear::baskets
