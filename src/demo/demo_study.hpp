// The study of the made-up shop, and what it should find.
#pragma once

#include <array>
#include <cstddef>
#include <string>
#include <string_view>

namespace pear::demo {

/// The study file: every question, and those that show the planted structure. `has_intake`: whether the
/// shop's files come with an intake file.
[[nodiscard]] std::string study_file(bool has_intake);

/// Something planted in the shop, and the sentence of a headline that reports it.
struct PlantedFinding {
  std::string_view planted;
  std::string_view question;  ///< its name in the study; empty for the import
  std::size_t sentence = 0;
};

inline constexpr std::array<PlantedFinding, 10> kPlantedFindings = {{
    {"Exports with duplicate rows, impossible dates and missing ids", "", 0},
    {"An autumn peak", "season", 0},
    {"Customers who begin with a starter kit order again, those with a gift box do not", "first", 2},
    {"Sock yarn is bought together with sock needles", "together", 0},
    {"Dyes are bought together with mordant", "dye", 1},
    {"The starter kit is followed by the pattern book, 75 days later", "starter-kit", 0},
    {"A spinning wheel is followed by fleece, and then by bobbins", "sequence", 1},
    {"Some private customers pay 12% less without a reason", "prices", 0},
    {"Trade customers pay less, and buy more", "prices", 1},
    {"A needle card without margin pulls expensive baskets", "baskets", 1},
}};

}  // namespace pear::demo
