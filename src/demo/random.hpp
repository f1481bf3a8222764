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

/// [0, 1), always the same for a key (the finaliser of SplitMix64: Steele, Lea and Flood, Fast splittable
/// pseudorandom number generators, OOPSLA 2014).
inline double hashed_fraction(std::uint64_t key) {
  key += 0x9e37'79b9'7f4a'7c15U;
  key = (key ^ (key >> 30U)) * 0xbf58'476d'1ce4'e5b9U;
  key = (key ^ (key >> 27U)) * 0x94d0'49bb'1331'11ebU;
  return static_cast<double>((key ^ (key >> 31U)) >> 11U) * 0x1.0p-53;
}

}  // namespace pear::demo
