#include "questions/baskets/similar_baskets.hpp"

#include <algorithm>

namespace pear::baskets {

double BasketMoments::variance_of_mean() const {
  return std::max(squares / baskets - mean() * mean(), 0.0) / (baskets - 1);
}

SimilarBaskets::SimilarBaskets(const ValuedBaskets& baskets, const std::vector<std::int64_t>& values) {
  for (std::size_t basket = 0; basket < baskets.size(); ++basket) {
    if (baskets.size_of(basket) >= place_of_size_.size()) place_of_size_.resize(baskets.size_of(basket) + 1);
    place_of_size_[baskets.size_of(basket)] = 1;
    months_ = std::max<std::size_t>(months_, baskets.months[basket] + 1U);
  }
  std::uint32_t sizes = 0;
  for (std::uint32_t& place : place_of_size_)
    if (place > 0) place = sizes++;
  all_.of_size.resize(sizes);
  all_.of_month.resize(sizes * months_);
  for (std::size_t basket = 0; basket < baskets.size(); ++basket) {
    const std::uint32_t cell = cell_of(baskets.size_of(basket), baskets.months[basket]);
    all_.of_month[cell].add(static_cast<double>(values[basket]));
    all_.of_size[cell / months_].add(static_cast<double>(values[basket]));
  }
}

OtherBaskets::OtherBaskets(const SimilarBaskets& all) : all_(all), uses_(all.all_.of_month.size()) {
  with_.of_month.resize(all.all_.of_month.size());
  with_.of_size.resize(all.all_.of_size.size());
}

void OtherBaskets::leave_out(std::uint32_t cell, double value) {
  if (with_.of_month[cell].baskets == 0) touched_.push_back(cell);
  with_.of_month[cell].add(value);
  with_.of_size[cell / all_.months_].add(value);
}

std::optional<double> OtherBaskets::mean_like(std::uint32_t cell, double share) {
  const std::size_t size = cell / all_.months_;
  const BasketMoments of_month = all_.all_.of_month[cell].without(with_.of_month[cell]);
  if (of_month.baskets >= kFewest) {
    uses_[cell].month += share;
    return of_month.mean();
  }
  const BasketMoments of_any = all_.all_.of_size[size].without(with_.of_size[size]);
  if (of_any.baskets < kFewest) return {};
  uses_[size * all_.months_].any_month += share;
  touched_.push_back(static_cast<std::uint32_t>(size * all_.months_));
  return of_any.mean();
}

double OtherBaskets::variance() const {
  std::vector<std::uint32_t> cells = touched_;
  std::sort(cells.begin(), cells.end());
  cells.erase(std::unique(cells.begin(), cells.end()), cells.end());
  double variance = 0;
  const auto add = [&](double shares, const BasketMoments& all, const BasketMoments& with) {
    if (shares > 0) variance += shares * shares * all.without(with).variance_of_mean();
  };
  for (const std::uint32_t cell : cells) {
    const std::size_t size = cell / all_.months_;
    add(uses_[cell].month, all_.all_.of_month[cell], with_.of_month[cell]);
    add(uses_[cell].any_month, all_.all_.of_size[size], with_.of_size[size]);
  }
  return variance;
}

void OtherBaskets::clear() {
  for (const std::uint32_t cell : touched_) {
    with_.of_month[cell] = {};
    with_.of_size[cell / all_.months_] = {};
    uses_[cell] = {};
  }
  touched_.clear();
}

}  // namespace pear::baskets
