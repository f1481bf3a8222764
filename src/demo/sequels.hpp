// The planted sequences of Thistledown & Reel.
#pragma once

#include <array>
#include <cstdint>

#include "demo/assortment.hpp"

namespace pear::demo {

/// An order with one product makes a customer who has never bought another want that, and some days later
/// they order it.
struct Sequel {
  std::uint32_t after = 0, next = 0;
  double days = 0, spread = 0;  ///< bell-shaped, never further than 3 spreads
  double probability = 0;
};

inline constexpr std::array<Sequel, 19> kSequels = {{
    {kStarterKit, kPatternBook, 75, 12, 0.45},
    {kWheel, kFleece, 60, 8, 0.75},
    {kFleece, kBobbins, 45, 7, 0.7},
    {kSockYarnHeather, kStrongHeel, 60, 10, 0.45},
    {kSockYarnMoss, kMittensLeaflet, 65, 10, 0.5},
    {kWoolOat, kShawlBook, 70, 12, 0.45},
    {kWoolBark, kRowCounter, 50, 8, 0.5},
    {kWoolLichen, kAlpacaSand, 65, 10, 0.5},
    {kWoolPlum, kHatLeaflet, 60, 10, 0.5},
    {kCottonShell, kToyBook, 70, 12, 0.5},
    {kCottonReed, kCrochetHook, 45, 8, 0.5},
    {kDotsFabric, kFabricScissors, 65, 10, 0.45},
    {kPlainFabric, kThreadSet, 55, 10, 0.45},
    {kLinenFabric, kHornButtons, 60, 10, 0.5},
    {kFelt, kEmbroideryKit, 60, 10, 0.5},
    {kDyeBlue, kIndigoVat, 60, 10, 0.45},
    {kDyeRed, kDyeGloves, 45, 8, 0.45},
    {kDyeYellow, kCochineal, 70, 12, 0.5},
    {kBobbins, kHandCards, 70, 10, 0.55},
}};

}  // namespace pear::demo
