#include "statistics/survival.hpp"

#include <cmath>

namespace pear::statistics {
namespace {

/// The interval of the remaining share, by the variance of log(-log(share)).
void set_interval(double left, double variance_sum, SurvivalDay& day) {
  day.low = day.high = day.share;
  if (left <= 0 || left >= 1) return;
  constexpr double kNormal = 1.959963984540054;  // of 95%
  const double logarithm = std::log(left);
  const double width = kNormal * std::sqrt(variance_sum) / std::abs(logarithm);
  day.low = 1 - std::pow(left, std::exp(-width));
  day.high = 1 - std::pow(left, std::exp(width));
}

}  // namespace

std::vector<SurvivalDay> kaplan_meier(const std::vector<std::uint32_t>& events,
                                      const std::vector<std::uint32_t>& ends, std::uint64_t all) {
  std::vector<SurvivalDay> days(events.size());
  double left = 1, variance_sum = 0;
  std::uint64_t at_risk = all;
  for (std::size_t d = 0; d < days.size(); ++d) {
    SurvivalDay& day = days[d];
    day.at_risk = at_risk;
    day.events = events[d];
    day.is_known = at_risk > 0 || left == 0;
    if (events[d] > 0) {
      const auto risk = static_cast<double>(at_risk), happened = static_cast<double>(events[d]);
      left = events[d] == at_risk ? 0 : left * (1 - happened / risk);
      if (events[d] < at_risk) variance_sum += happened / (risk * (risk - happened));
    }
    day.share = 1 - left;
    set_interval(left, variance_sum, day);
    at_risk -= events[d] + ends[d];
  }
  return days;
}

}  // namespace pear::statistics
