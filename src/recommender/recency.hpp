// How long ago a customer last bought a product.
#pragma once

#include <array>
#include <cstdint>
#include <limits>
#include <string>
#include <utility>

namespace pear::recommender {

constexpr std::int32_t kNever =
    std::numeric_limits<std::int32_t>::min();  ///< a day on which nothing was bought

/// The first days of the bands: narrow where days matter, because triggered purchases mostly follow soon.
constexpr std::array<std::int32_t, 12> kRecencyBands = {0, 10, 20, 30, 45, 60, 90, 120, 180, 270, 365, 730};
constexpr std::size_t kBands = kRecencyBands.size();

[[nodiscard]] constexpr std::size_t recency_band(std::int32_t days) {
  std::size_t band = 0;
  while (band + 1 < kBands && kRecencyBands[band + 1] <= days) ++band;
  return band;
}

/// A customer's state towards a product that they bought: the band of days since, and whether they have
/// ordered since. A customer who has ordered something else since may have decided against what usually
/// follows.
class RecencyState {
 public:
  static constexpr std::size_t kCount = 2 * kBands;

  [[nodiscard]] static constexpr RecencyState of(std::int32_t days, bool ordered_since) {
    return RecencyState(static_cast<std::uint8_t>(2 * recency_band(days) + (ordered_since ? 1 : 0)));
  }
  /// All states in order of the band.
  [[nodiscard]] static constexpr std::array<RecencyState, kCount> all() {
    return []<std::size_t... I>(std::index_sequence<I...>) {
      return std::array<RecencyState, kCount>{RecencyState(static_cast<std::uint8_t>(I))...};
    }
    (std::make_index_sequence<kCount>());
  }

  [[nodiscard]] constexpr std::size_t band() const { return code_ / 2; }
  [[nodiscard]] constexpr bool ordered_since() const { return code_ % 2 == 1; }
  /// The position in all().
  [[nodiscard]] constexpr std::size_t index() const { return code_; }
  constexpr auto operator<=>(const RecencyState&) const = default;

 private:
  explicit constexpr RecencyState(std::uint8_t code) : code_(code) {}
  std::uint8_t code_;
};

/// A value for each recency state.
template <class T>
class ByRecency {
 public:
  [[nodiscard]] T& operator[](RecencyState state) { return values_[state.index()]; }
  [[nodiscard]] const T& operator[](RecencyState state) const { return values_[state.index()]; }

 private:
  std::array<T, RecencyState::kCount> values_{};
};

/// "30 to 44 days", "730 days or more"
[[nodiscard]] std::string days_of_band(std::size_t band);

}  // namespace pear::recommender
