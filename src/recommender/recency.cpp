#include "recommender/recency.hpp"

#include <fmt/format.h>

namespace pear::recommender {

std::string days_of_band(std::size_t band) {
  if (band + 1 == kRecencyBands.size()) return fmt::format("{} days or more", kRecencyBands[band]);
  return fmt::format("{} to {} days", kRecencyBands[band], kRecencyBands[band + 1] - 1);
}

}  // namespace pear::recommender
