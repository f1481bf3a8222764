// A sum of probabilities that does not depend on their order.
#pragma once

#include <cstdint>

namespace pear::recommender {

/// Probabilities are added as integers, so the order in which threads visit customers does not matter.
class ProbabilitySum {
 public:
  void add(double probability) { units_ += static_cast<std::int64_t>(probability * kUnits); }
  void add(const ProbabilitySum& other) { units_ += other.units_; }
  [[nodiscard]] double value() const { return static_cast<double>(units_) / kUnits; }

 private:
  static constexpr double kUnits = 1e9;
  std::int64_t units_ = 0;
};

}  // namespace pear::recommender
