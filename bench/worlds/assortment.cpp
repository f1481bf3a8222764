#include "worlds/assortment.hpp"

#include <algorithm>
#include <cmath>

namespace pear::worlds {

Assortment::Assortment(const WorldOptions& options, Random& random) {
  for (int i = 0; i < options.products; ++i) {
    Product product;
    product.popularity = std::pow(i + 1, -options.zipf);
    product.until = options.days;
    const double life = random.fraction(), place = 0.2 + 0.6 * random.fraction();
    if (life < options.launched) product.from = static_cast<int>(place * options.days);
    if (life > 1 - options.withdrawn) product.until = static_cast<int>(place * options.days);
    if (options.has_seasons && i % 3 == 0) product.quarter = random.whole(0, 3);
    if (options.segments > 0) product.segment = i % options.segments;
    constexpr double kMedianCycle = 60;
    if (i < options.consumables) product.cycle = lognormal(random, kMedianCycle, 0.5);
    product.price = std::round(100 * lognormal(random, 10, 0.6)) / 100;
    products_.push_back(product);
    cumulative_.push_back((cumulative_.empty() ? 0 : cumulative_.back()) + product.popularity);
  }
}

int Assortment::choose(Random& random) const {
  const double at = random.fraction() * cumulative_.back();
  return static_cast<int>(std::upper_bound(cumulative_.begin(), cumulative_.end(), at) - cumulative_.begin());
}

double Assortment::probability_wanted(int product, int day, int segment) const {
  const Product& it = (*this)[product];
  constexpr double kOutOfSeason = 1.0 / 3, kOtherSegment = 1.0 / 3;
  if (!it.is_sold(day)) return 0;
  return (it.quarter < 0 || it.quarter == day % 365 / 92 ? 1 : kOutOfSeason) *
         (it.segment < 0 || it.segment == segment ? 1 : kOtherSegment);
}

bool Assortment::is_wanted(Random& random, int product, int day, int segment) const {
  const double probability = probability_wanted(product, day, segment);
  return probability == 1 || (probability > 0 && random.chance(probability));
}

}  // namespace pear::worlds
