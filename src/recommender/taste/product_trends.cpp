#include "recommender/taste/product_trends.hpp"

#include <cmath>
#include <limits>

namespace pear::recommender {
namespace {

/// Purchases by product in days [first, last].
struct Sold {
  std::vector<double> of_product;
  double all = 0;

  Sold(const mining::Histories& known, std::int32_t first, std::int32_t last)
      : of_product(known.counts.size()) {
    for (const mining::HistoryEntry& entry : known.entries)
      if (entry.day >= first && entry.day <= last) ++of_product[entry.code], ++all;
  }
};

std::vector<double> log_ratios(const Sold& some, const Sold& usual) {
  constexpr double kWeight = 20;  // purchases of the usual ones, by which shares are shrunk
  std::vector<double> ratios(usual.of_product.size());
  for (std::size_t product = 0; product < ratios.size(); ++product) {
    if (usual.of_product[product] == 0) continue;
    const double share = usual.of_product[product] / usual.all;
    ratios[product] = std::log((some.of_product[product] + kWeight * share) / (some.all + kWeight) / share);
  }
  return ratios;
}

}  // namespace

ProductTrends ProductTrends::fit(const mining::Histories& known, const Landmarks& landmarks) {
  constexpr std::int32_t kHalfYear = 182;
  const std::int32_t as_of = landmarks.as_of.days;
  ProductTrends trends;
  trends.recent_ = log_ratios(Sold(known, as_of - landmarks.horizon + 1, as_of),
                              Sold(known, std::numeric_limits<std::int32_t>::min(), as_of));
  trends.season_.resize(trends.recent_.size());
  if (!landmarks.season_day) return trends;
  const std::int32_t first = *landmarks.season_day + 1, last = *landmarks.season_day + landmarks.horizon;
  const std::int32_t middle = (first + last) / 2;
  trends.season_ = log_ratios(Sold(known, first, last), Sold(known, middle - kHalfYear, middle + kHalfYear));
  return trends;
}

}  // namespace pear::recommender
