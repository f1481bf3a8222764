#include "worlds/appeal.hpp"

#include <cmath>

namespace pear::worlds {

Appeal::Appeal(const WorldOptions& options, Random& random)
    : products_(static_cast<std::size_t>(options.products)),
      dimensions_(static_cast<std::size_t>(options.taste_dimensions)),
      direction_(dimensions_),
      kinds_(options.kinds) {
  constexpr double kLeast = 0.02, kSkew = 3;
  for (int kind = 0; kind < options.kinds; ++kind)
    for (std::size_t product = 0; product < products_; ++product)
      of_kinds_.push_back(kLeast + (1 - kLeast) * std::pow(random.fraction(), kSkew));
  for (std::size_t i = 0; i < products_ * dimensions_; ++i) places_.push_back(normal(random));
}

void Appeal::draw(Random& random) {
  constexpr double kRight = 0.75;
  if (kinds_ > 0) {
    kind_ = random.whole(0, kinds_ - 1);
    stated_kind_ = random.chance(kRight) ? kind_ : random.whole(0, kinds_ - 1);
  }
  for (double& each : direction_) each = normal(random);
}

double Appeal::of(int product) const {
  const auto place = static_cast<std::size_t>(product);
  double appeal = kinds_ > 0 ? of_kinds_[static_cast<std::size_t>(kind_) * products_ + place] : 1;
  if (dimensions_ == 0) return appeal;
  constexpr double kUsual = -2;  // log odds
  double sum = 0;
  for (std::size_t i = 0; i < dimensions_; ++i) sum += direction_[i] * places_[place * dimensions_ + i];
  return appeal / (1 + std::exp(-kUsual - sum / std::sqrt(static_cast<double>(dimensions_)) * 2));
}

}  // namespace pear::worlds
