// The study of the made-up shop, and what it is to find.
#pragma once

#include <array>
#include <cstddef>
#include <string>
#include <string_view>

namespace pear::demo {

/// The study file: every question, and those that show what is planted. `has_intake`: whether the shop's
/// files come with an intake file.
[[nodiscard]] std::string study_file(bool has_intake);

/// Something that is planted in the shop, and which sentence of which answer's headline tells it.
struct PlantedFinding {
  std::string_view planted;
  std::string_view question;  ///< its name in the study; empty for the import
  std::size_t sentence = 0;
};

inline constexpr std::array<PlantedFinding, 10> kPlantedFindings = {{
    {"Exports with rows written twice, impossible days and missing numbers", "", 0},
    {"An autumn peak", "season", 0},
    {"Starter kits bring customers back, gift boxes do not", "first", 2},
    {"Sock yarn goes with sock needles", "together", 0},
    {"Dyes go with mordant", "dye", 1},
    {"A starter kit leads to the pattern book, 75 days later", "starter-kit", 0},
    {"A spinning wheel leads to fleece, and that to bobbins", "sequence", 1},
    {"Some private customers pay 12% less for no reason", "prices", 0},
    {"Trade customers pay less, and buy more", "prices", 1},
    {"A needle card that earns nothing pulls dear baskets", "baskets", 1},
}};

}  // namespace pear::demo
