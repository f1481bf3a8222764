// Random numbers, the same on every machine.
#pragma once

#include <cmath>
#include <cstdint>
#include <random>

namespace pear::demo {

/// The generator's sequence is fixed by the C++ standard; that of std's distributions is not, so these few
/// are computed from its numbers directly.
class Random {
 public:
  explicit Random(std::uint64_t seed) : engine_(seed) {}

  /// [0, 1)
  double fraction() { return static_cast<double>(engine_() >> 11U) * 0x1.0p-53; }
  bool chance(double probability) { return fraction() < probability; }
  /// A whole number of [lowest, highest].
  int whole(int lowest, int highest) {
    return lowest + static_cast<int>(fraction() * static_cast<double>(highest - lowest + 1));
  }
  /// Waiting time of this mean (exponential).
  double waiting(double mean) { return -mean * std::log(1 - fraction()); }
  /// About `middle`, plus or minus `spread`: bell-shaped, never further than 3 spreads.
  double about(double middle, double spread) {
    double sum = 0;
    for (int i = 0; i < 3; ++i) sum += 2 * fraction() - 1;
    return middle + spread * sum;
  }

 private:
  std::mt19937_64 engine_;
};

}  // namespace pear::demo
