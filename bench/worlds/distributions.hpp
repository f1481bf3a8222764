// Random numbers of the distributions that the purchase models use, the same on every machine.
#pragma once

#include <algorithm>
#include <cmath>
#include <numbers>

#include "demo/random.hpp"

namespace pear::worlds {

using demo::Random;

/// Standard normal (Box and Muller, 1958).
inline double normal(Random& random) {
  const double radius = std::sqrt(-2 * std::log(1 - random.fraction()));
  return radius * std::cos(2 * std::numbers::pi * random.fraction());
}

inline double lognormal(Random& random, double median, double sigma) {
  return median * std::exp(sigma * normal(random));
}

/// Of this shape, with mean 1 (Marsaglia and Tsang, ACM TOMS 26, 2000).
inline double gamma(Random& random, double shape) {
  if (shape < 1) return gamma(random, shape + 1) * (shape + 1) / shape * std::pow(random.fraction(), 1 / shape);
  const double d = shape - 1.0 / 3, c = 1 / std::sqrt(9 * d);
  for (;;) {
    const double x = normal(random), v = std::pow(std::max(0.0, 1 + c * x), 3);
    if (v > 0 && std::log(1 - random.fraction()) < 0.5 * x * x + d - d * v + d * std::log(v))
      return d * v / shape;
  }
}

inline double beta(Random& random, double a, double b) {
  const double x = a * gamma(random, a), y = b * gamma(random, b);
  return x / (x + y);
}

inline int poisson(Random& random, double mean) {
  int events = 0;
  for (double time = random.waiting(1); time < mean; time += random.waiting(1)) ++events;
  return events;
}

/// 0, 1, 2, ... with this mean.
inline int geometric(Random& random, double mean) {
  return static_cast<int>(std::log(1 - random.fraction()) / std::log(mean / (1 + mean)));
}

}  // namespace pear::worlds
