#include "recommender/landmarks.hpp"

#include <algorithm>

#include <fmt/format.h>

#include "base/text.hpp"

namespace pear::recommender {

OrError<Landmarks> choose_landmarks(Date first_day, Date as_of, std::int32_t horizon, std::int32_t active,
                                    std::uint32_t customers) {
  constexpr std::int32_t kLeastHistory = 60;  // days before a landmark: customers have no history earlier
  constexpr std::int32_t kYear = 365;
  constexpr std::uint32_t kMany = 200'000;               // this many suffice without overlapping horizons
  const std::int32_t kLongest = std::max(780, horizon);  ///< two years of landmarks 90 days before as_of
  Landmarks landmarks{as_of, horizon, active, {}, {}, 1};
  const std::int32_t apart = customers > kMany ? horizon : (horizon + 2) / 3;
  for (std::int32_t day = as_of.days - horizon;
       day >= first_day.days + kLeastHistory && as_of.days - day <= kLongest; day -= apart)
    landmarks.days.push_back(day);
  if (landmarks.days.empty())
    return data_error(fmt::format(
        "the sales up to {} cover {}; to learn what customers buy within {}, at least {} are needed.",
        to_text(as_of), counted(static_cast<std::uint64_t>(days_between(first_day, as_of) + 1), "day"),
        counted(static_cast<std::uint64_t>(horizon), "day"), horizon + kLeastHistory + 1));
  std::reverse(landmarks.days.begin(), landmarks.days.end());
  if (as_of.days - first_day.days >= 2 * kYear && horizon <= kYear) landmarks.season_day = as_of.days - kYear;
  landmarks.overlap = static_cast<double>(horizon) / apart;
  return landmarks;
}

mining::Histories known_by(const mining::Histories& histories, Date day, CustomerSample sample) {
  mining::Histories known;
  known.counts.resize(histories.counts.size());
  known.begins.reserve(histories.begins.size());
  for (std::uint32_t customer = 0; customer < histories.customers(); ++customer) {
    const std::size_t before = known.entries.size();
    const bool is_in_sample = sample.contains(customer);
    for (const mining::HistoryEntry& entry : histories.of(customer)) {
      if (entry.day > day.days || !is_in_sample) break;
      known.entries.push_back(entry);
      if (entry.is_first != 0) ++known.counts[entry.code];
    }
    if (known.entries.size() > before) ++known.buyers;
    known.begins.push_back(static_cast<std::uint32_t>(known.entries.size()));
  }
  return known;
}

}  // namespace pear::recommender
