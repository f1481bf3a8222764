// The assortment of Thistledown & Reel.
#pragma once

#include <array>
#include <cstdint>
#include <span>
#include <string_view>

namespace pear::demo {

struct Product {
  std::string_view name;
  std::string_view category;
  std::int64_t list_price = 0;  ///< cents
  std::int64_t unit_cost = 0;   ///< cents
};

/// 90 products and one that the shop's list does not have; product i has the id "P<i + 1>". Those of one
/// category follow one another.
[[nodiscard]] std::span<const Product> assortment();
constexpr std::uint32_t kListedProducts = 90;
constexpr std::uint32_t kUnlisted = 90;  ///< sold now and then, and on no list: name and category are unknown

/// Positions [begin, end) in the assortment.
struct Shelf {
  std::uint32_t begin = 0;
  std::uint32_t end = 0;
};

// Categories, and the products of the planted structure.
constexpr Shelf kSockYarn{0, 10};
constexpr Shelf kWoolYarn{10, 22};
constexpr Shelf kCottonYarn{22, 30};
constexpr Shelf kNeedles{30, 42};
constexpr Shelf kPatterns{42, 52};
constexpr Shelf kSpinning{52, 62};
constexpr Shelf kDyeing{62, 72};
constexpr Shelf kSewing{72, 90};

constexpr std::uint32_t kSockYarnHeather = 0;
constexpr std::uint32_t kSockYarnMoss = 1;
constexpr std::uint32_t kStrongHeel = 9;
constexpr std::uint32_t kWoolOat = 10;
constexpr std::uint32_t kWoolBark = 11;
constexpr std::uint32_t kWoolLichen = 12;
constexpr std::uint32_t kWoolPlum = 13;
constexpr std::uint32_t kAlpacaSand = 20;
constexpr std::uint32_t kCottonShell = 22;
constexpr std::uint32_t kCottonReed = 23;
constexpr std::uint32_t kSockNeedles = 30;
constexpr std::uint32_t kCrochetHook = 37;
constexpr std::uint32_t kRowCounter = 40;
constexpr std::uint32_t kDarningCard = 41;  // earns hardly anything, and is in the most expensive baskets
constexpr std::uint32_t kStarterKit = 42;   // its buyers order again
constexpr std::uint32_t kGiftBox = 43;      // its buyers seldom do
constexpr std::uint32_t kPatternBook = 44;
constexpr std::uint32_t kShawlBook = 45;
constexpr std::uint32_t kToyBook = 46;
constexpr std::uint32_t kMittensLeaflet = 47;
constexpr std::uint32_t kHatLeaflet = 48;
constexpr std::uint32_t kEmbroideryKit = 51;
constexpr std::uint32_t kWheel = 52;
constexpr std::uint32_t kFleece = 53;
constexpr std::uint32_t kBobbins = 54;
constexpr std::uint32_t kHandCards = 56;
constexpr std::uint32_t kFirstDye = 62;  // dyes are 62 to 69
constexpr std::uint32_t kDyeBlue = 62;
constexpr std::uint32_t kDyeRed = 63;
constexpr std::uint32_t kDyeYellow = 64;
constexpr std::uint32_t kIndigoVat = 68;
constexpr std::uint32_t kCochineal = 69;
constexpr std::uint32_t kMordant = 70;
constexpr std::uint32_t kDyeGloves = 71;
constexpr std::uint32_t kDotsFabric = 72;
constexpr std::uint32_t kPlainFabric = 73;
constexpr std::uint32_t kLinenFabric = 74;
constexpr std::uint32_t kFelt = 75;
constexpr std::uint32_t kThreadSet = 79;
constexpr std::uint32_t kHornButtons = 82;
constexpr std::uint32_t kFabricScissors = 86;

}  // namespace pear::demo
