// The kinds of customers of Thistledown & Reel.
#pragma once

#include <array>
#include <string_view>

#include "demo/assortment.hpp"

namespace pear::demo {

struct CustomerKind {
  std::string_view name;
  bool trade = false;
  bool spins = false;
  double share = 0;        ///< of all customers
  double coming_back = 0;  ///< probability of a further order after each
  double gap_days = 0;     ///< mean days between orders, in addition to a minimum of three
  std::array<Shelf, 4>
      shelves;  ///< the categories they choose from, equally often; a category may occur twice
};

inline constexpr std::array<CustomerKind, 7> kKinds = {{
    {"knitter", false, false, 0.40, 0.60, 78, {kSockYarn, kWoolYarn, kWoolYarn, kNeedles}},
    {"sewer", false, false, 0.24, 0.58, 78, {kSewing, kSewing, kCottonYarn, kPatterns}},
    {"spinner", false, true, 0.15, 0.56, 78, {kSpinning, kSpinning, kWoolYarn, kDyeing}},
    {"dyer", false, false, 0.12, 0.61, 72, {kDyeing, kDyeing, kSockYarn, kCottonYarn}},
    {"workroom", true, false, 0.04, 0.97, 32, {kSewing, kSewing, kCottonYarn, kNeedles}},
    {"school", true, false, 0.03, 0.95, 70, {kCottonYarn, kPatterns, kSewing, kNeedles}},
    {"club", true, false, 0.02, 0.96, 45, {kSockYarn, kWoolYarn, kDyeing, kPatterns}},
}};

inline constexpr std::array<std::string_view, 5> kRegions = {"North", "East", "South", "West", "Islands"};

}  // namespace pear::demo
