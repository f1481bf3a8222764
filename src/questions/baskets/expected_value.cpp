#include "questions/baskets/expected_value.hpp"

#include <algorithm>
#include <cmath>
#include <numeric>

namespace pear::baskets {

ExpectedValue::ExpectedValue(const ValuedBaskets& baskets) : baskets_(baskets) {
  values_.resize(baskets.size());
  for (std::size_t basket = 0; basket < baskets.size(); ++basket)
    for (std::uint32_t i = baskets.begins[basket]; i < baskets.begins[basket + 1]; ++i)
      values_[basket] += baskets.values[i];
  if (!values_.empty())
    mean_ = std::accumulate(values_.begin(), values_.end(), 0.0,
                            [](double sum, std::int64_t value) { return sum + std::abs(static_cast<double>(value)); }) /
            static_cast<double>(values_.size());
  if (mean_ == 0) mean_ = 1;
  set_up_levels();
  constexpr int kRounds = 10;  // sizes and months overlap little: the factors converge within a few rounds
  for (int round = 0; round < kRounds; ++round) improve();
}

void ExpectedValue::set_up_levels() {
  std::uint32_t largest = 0;
  for (std::size_t basket = 0; basket < baskets_.size(); ++basket)
    largest = std::max(largest, baskets_.size_of(basket));
  std::size_t level = 0;
  for (std::uint32_t size = 0, next = 2; size <= largest; ++size) {
    if (size == next) {
      ++level;
      next = std::max(size + 1, static_cast<std::uint32_t>(1.4 * size));
    }
    level_of_size_.push_back(level);
  }
  by_size_.assign(level + 1, 1);
  const auto last = std::max_element(baskets_.months.begin(), baskets_.months.end());
  by_month_.assign(last == baskets_.months.end() ? 1 : *last + 1U, 1);
}

void ExpectedValue::improve() {
  struct Sums {
    double observed = 0, expected = 0;
  };
  std::vector<Sums> sizes(by_size_.size()), months(by_month_.size());
  for (std::size_t begin = 0, end = 0; begin < baskets_.size(); begin = end) {
    double value = 0, expected = 0;
    for (end = begin; end < baskets_.size() && baskets_.customers[end] == baskets_.customers[begin]; ++end) {
      value += static_cast<double>(values_[end]);
      expected += baskets_.size_of(end) * of_item(end);
    }
    if (end - begin < 2) continue;  // a single basket fits any factors
    for (std::size_t basket = begin; basket < end; ++basket) {
      const Sums sums{static_cast<double>(values_[basket]),
                      value / expected * baskets_.size_of(basket) * of_item(basket)};
      for (Sums* to :
           {&sizes[size_level(baskets_.size_of(basket))], &months[baskets_.months[basket]]}) {
        to->observed += sums.observed;
        to->expected += sums.expected;
      }
    }
  }
  // Each factor is what makes expected sums equal the observed ones, shrunk towards 1 with a prior weight of
  // 30 baskets. Both are corrected at once, each by half, because together they could overshoot.
  const double prior = 30 * mean_;
  const auto correct = [&](std::vector<double>& factors, const std::vector<Sums>& sums) {
    for (std::size_t i = 0; i < factors.size(); ++i) {
      const double observed = std::max(sums[i].observed, 0.0) + prior,
                   expected = std::max(sums[i].expected / factors[i], 0.0) + prior;
      factors[i] = std::sqrt(factors[i] * observed / expected);
    }
  };
  correct(by_size_, sizes);
  correct(by_month_, months);
}

}  // namespace pear::baskets
