#include "questions/baskets/expected_value.hpp"

#include <algorithm>
#include <cmath>
#include <numeric>

#include <tbb/blocked_range.h>
#include <tbb/parallel_reduce.h>

namespace pear::baskets {

ExpectedValue::ExpectedValue(const ValuedBaskets& baskets) : baskets_(baskets) {
  values_.resize(baskets.size());
  for (std::size_t basket = 0; basket < baskets.size(); ++basket)
    for (std::uint32_t i = baskets.begins[basket]; i < baskets.begins[basket + 1]; ++i)
      values_[basket] += baskets.values[i];
  if (!values_.empty())
    mean_ = std::accumulate(
                values_.begin(), values_.end(), 0.0,
                [](double sum, std::int64_t value) { return sum + std::abs(static_cast<double>(value)); }) /
            static_cast<double>(values_.size());
  if (mean_ == 0) mean_ = 1;
  for (std::size_t basket = 0; basket < baskets.size(); ++basket)
    if (basket == 0 || baskets.customers[basket] != baskets.customers[basket - 1])
      customer_begins_.push_back(basket);
  customer_begins_.push_back(baskets.size());
  set_up_levels();
  constexpr int kRounds = 8;  // sizes and months overlap little: the factors converge within a few rounds
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

void ExpectedValue::Sums::add(const Sums& other) {
  for (std::size_t level = 0; level < observed.size(); ++level)
    add(level, other.observed[level], other.expected[level]);
}

void ExpectedValue::add(std::size_t begin, std::size_t end, SumsOfFactors& sums) const {
  double value = 0, expected = 0;
  for (std::size_t basket = begin; basket < end; ++basket) {
    value += static_cast<double>(values_[basket]);
    expected += baskets_.size_of(basket) * of_item(basket);
  }
  for (std::size_t basket = begin; basket < end; ++basket) {
    const std::uint32_t size = baskets_.size_of(basket);
    const auto observed = static_cast<double>(values_[basket]);
    const double of_basket = value / expected * size * of_item(basket);
    sums.first.add(level_of_size_[size], observed, of_basket);
    sums.second.add(baskets_.months[basket], observed, of_basket);
  }
}

void ExpectedValue::improve() {
  struct Body {  // blocks of customers, joined in a fixed order
    const ExpectedValue& model;
    SumsOfFactors sums;
    explicit Body(const ExpectedValue& of)
        : model(of), sums(Sums(of.by_size_.size()), Sums(of.by_month_.size())) {}
    Body(Body& other, tbb::split) : Body(other.model) {}
    void operator()(const tbb::blocked_range<std::size_t>& customers) {
      for (std::size_t customer = customers.begin(); customer != customers.end(); ++customer) {
        const std::size_t begin = model.customer_begins_[customer],
                          end = model.customer_begins_[customer + 1];
        if (end - begin > 1) model.add(begin, end, sums);  // a single basket fits any factors
      }
    }
    void join(const Body& later) {
      sums.first.add(later.sums.first);
      sums.second.add(later.sums.second);
    }
  };
  constexpr std::size_t kPerBlock = 16'384;
  Body body(*this);
  tbb::parallel_deterministic_reduce(
      tbb::blocked_range<std::size_t>(0, customer_begins_.size() - 1, kPerBlock), body);
  correct(by_size_, body.sums.first);
  correct(by_month_, body.sums.second);
}

/// Each factor is what makes expected sums equal the observed ones, shrunk towards 1 with a prior weight of
/// 30 baskets. Both are corrected at once, each by half, because together they could overshoot.
void ExpectedValue::correct(std::vector<double>& factors, const Sums& sums) const {
  const double prior = 30 * mean_;
  for (std::size_t level = 0; level < factors.size(); ++level) {
    const double observed = std::max(sums.observed[level], 0.0) + prior,
                 expected = std::max(sums.expected[level] / factors[level], 0.0) + prior;
    factors[level] = std::sqrt(factors[level] * observed / expected);
  }
}

}  // namespace pear::baskets
