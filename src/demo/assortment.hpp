// What Thistledown & Reel sells.
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

/// 90 products and one that the shop's list lacks; product i has the id "P<i + 1>". Those of one category
/// stand together.
[[nodiscard]] std::span<const Product> assortment();
constexpr std::uint32_t kListedProducts = 90;
constexpr std::uint32_t kUnlisted = 90;  ///< sold now and then, and on no list: name and category are unknown

/// Positions [begin, end) in the assortment.
struct Shelf {
  std::uint32_t begin = 0;
  std::uint32_t end = 0;
};

// Shelves, and the products that the planted structure speaks of.
constexpr Shelf kSockYarn{0, 10};
constexpr Shelf kWoolYarn{10, 22};
constexpr Shelf kCottonYarn{22, 30};
constexpr Shelf kNeedles{30, 42};
constexpr Shelf kPatterns{42, 52};
constexpr Shelf kSpinning{52, 62};
constexpr Shelf kDyeing{62, 72};
constexpr Shelf kSewing{72, 90};

constexpr std::uint32_t kSockNeedles = 30;
constexpr std::uint32_t kDarningCard = 41;  // hardly earns anything, and stands in the dearest baskets
constexpr std::uint32_t kStarterKit = 42;   // its buyers come back
constexpr std::uint32_t kGiftBox = 43;      // its buyers seldom do
constexpr std::uint32_t kPatternBook = 44;
constexpr std::uint32_t kWheel = 52;
constexpr std::uint32_t kFleece = 53;
constexpr std::uint32_t kBobbins = 54;
constexpr std::uint32_t kFirstDye = 62;  // dyes are 62 to 69
constexpr std::uint32_t kMordant = 70;

}  // namespace pear::demo
