// A random sample of customers, the same every time.
#pragma once

#include <algorithm>
#include <cstdint>

namespace pear::recommender {

/// A pseudo-random number for a customer, the same on every machine (the finaliser of splitmix64: Steele, Lea
/// and Flood, Fast splittable pseudorandom number generators, OOPSLA 2014).
[[nodiscard]] constexpr std::uint64_t scrambled(std::uint64_t customer) {
  std::uint64_t x = (customer + 1) * 0x9E3779B97F4A7C15ULL;
  x = (x ^ (x >> 30U)) * 0xBF58476D1CE4E5B9ULL;
  x = (x ^ (x >> 27U)) * 0x94D049BB133111EBULL;
  return x ^ (x >> 31U);
}

/// One customer out of `of`, at random and not every `of`-th: the ids of a shop may have a pattern, such as a
/// digit for the branch.
class CustomerSample {
 public:
  /// Of all customers, about `most`.
  [[nodiscard]] static CustomerSample of_about(std::uint64_t most, std::uint64_t customers) {
    return CustomerSample(std::max<std::uint64_t>(1, (customers + most - 1) / most));
  }
  /// All customers.
  CustomerSample() = default;

  [[nodiscard]] bool contains(std::uint32_t customer) const {
    return of_ == 1 || scrambled(customer) % of_ == 0;
  }
  [[nodiscard]] bool is_all() const { return of_ == 1; }

 private:
  explicit CustomerSample(std::uint64_t of) : of_(of) {}
  std::uint64_t of_ = 1;
};

}  // namespace pear::recommender
