#include "questions/sequence/pair_days.hpp"

#include <algorithm>
#include <limits>

#include "statistics/wilson_interval.hpp"

namespace pear::sequence {

FollowedDays::FollowedDays(std::vector<std::int32_t> followed) {
  std::sort(followed.begin(), followed.end());
  for (std::size_t begin = 0, end = 0; begin < followed.size(); begin = end) {
    while (end < followed.size() && followed[end] == followed[begin]) ++end;
    add(followed[begin], end - begin);
  }
}

void FollowedDays::add(std::int32_t days, std::uint64_t customers) {
  days_.push_back(days);
  const Sums before = sums_.back();
  sums_.push_back({before.customers + customers, before.days + days * static_cast<std::int64_t>(customers)});
}

FollowedDays::Sums FollowedDays::below(std::int32_t days) const {
  return sums_[static_cast<std::size_t>(std::lower_bound(days_.begin(), days_.end(), days) - days_.begin())];
}

std::int64_t FollowedDays::within(std::int32_t first, std::int32_t last) const {
  const Sums begin = below(first), end = below(last);
  const auto some = static_cast<std::int64_t>(end.customers - begin.customers);
  return end.days - begin.days - some * (first - 1) +
         static_cast<std::int64_t>(customers() - end.customers) * (last - first + 1);
}

DayCounts FollowedDays::ends(std::int32_t last) const {
  DayCounts counts(last);
  for (std::size_t i = 0; i < days_.size() && days_[i] <= last; ++i)
    counts.add(days_[i], static_cast<std::uint32_t>(sums_[i + 1].customers - sums_[i].customers));
  return counts;
}

void set_timing(const PairDays& days, const FollowedDays& followed, double usual_daily, Transition& pair) {
  pair.days_p25 = days.quartiles.lower;
  pair.days_median = days.quartiles.median;
  pair.days_p75 = days.quartiles.upper;
  const std::vector<statistics::SurvivalDay> shares =
      statistics::kaplan_meier(days.events.counts(), days.ends.counts(), followed.customers());
  for (std::size_t i = 0; i < kRateDays.size(); ++i) {
    const statistics::SurvivalDay& day = shares[static_cast<std::size_t>(kRateDays[i])];
    pair.rates[i] = day.is_known ? day.share : std::numeric_limits<double>::quiet_NaN();
  }
  // How much more often than usual the later item is bought in the middle half of the days.
  const auto observed = static_cast<double>(followed.within(pair.days_p25, pair.days_p75));
  pair.rate_ratio = static_cast<double>(days.in_middle) / observed / usual_daily;
  const double sure_in_middle = statistics::wilson_interval(days.in_middle, followed.customers()).low *
                                static_cast<double>(followed.customers());
  pair.sure_ratio = sure_in_middle / observed / usual_daily;
}

}  // namespace pear::sequence
