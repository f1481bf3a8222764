// Landmarks: earlier days on which customers are observed, with what they had bought by then and what they
// bought next.
#pragma once

#include <cstdint>
#include <optional>
#include <span>
#include <vector>

#include "base/date.hpp"
#include "base/error.hpp"
#include "mining/purchase_histories.hpp"
#include "recommender/customer_sample.hpp"

namespace pear::recommender {

/// What customers buy within a horizon is learned from past days that are early enough to observe the whole
/// horizon after each: landmarks (van Houwelingen, Dynamic prediction by landmarking in event history
/// analysis, Scandinavian Journal of Statistics 34, 2007), pooled over all of them.
struct Landmarks {
  Date as_of;                              ///< nothing later is known
  std::int32_t horizon = 90;               ///< days after a landmark in which a purchase counts
  std::int32_t active = 365;               ///< a customer's last order must be within this many days
  std::vector<std::int32_t> days;          ///< the landmarks, in order of time
  std::optional<std::int32_t> season_day;  ///< a year before as_of, if two years are known
  double overlap = 1;                      ///< how many horizons contain a purchase
};

/// Landmarks a third of a horizon apart (a whole horizon for more than 200,000 customers, where that is
/// enough), up to 780 days back. Error: data, if there is none.
[[nodiscard]] OrError<Landmarks> choose_landmarks(Date first_day, Date as_of, std::int32_t horizon,
                                                  std::int32_t active, std::uint32_t customers);

/// An active customer on one day.
struct CustomerState {
  std::size_t landmark = 0;
  std::int32_t day = 0;
  std::uint32_t orders = 0;
  std::int32_t first_day = 0, last_day = 0;  ///< of their orders so far
  std::uint32_t known = 0;                   ///< this many entries were bought by then
  std::uint32_t seen = 0;                    ///< the entries [known, seen) within the horizon
};

/// visit(state) for each landmark at which the customer of a history was active, in order of time.
template <class Visit>
void for_each_landmark(std::span<const mining::HistoryEntry> history, const Landmarks& landmarks,
                       std::span<const std::int32_t> days, const Visit& visit) {
  CustomerState now;
  for (std::size_t landmark = 0; landmark < days.size(); ++landmark) {
    now.landmark = landmark;
    now.day = days[landmark];
    while (now.known < history.size() && history[now.known].day <= now.day) {
      const mining::HistoryEntry& entry = history[now.known];
      if (now.known == 0) now.first_day = entry.day;
      if (now.known == 0 || entry.order != history[now.known - 1].order) ++now.orders;
      now.last_day = entry.day;
      ++now.known;
    }
    if (now.known == 0 || now.day - now.last_day >= landmarks.active) continue;
    if (now.seen < now.known) now.seen = now.known;
    while (now.seen < history.size() && history[now.seen].day <= now.day + landmarks.horizon) ++now.seen;
    visit(now);
  }
}

/// The entries up to a day, as if there were nothing later: the same customers and codes. Customers who are
/// not in the sample have none.
[[nodiscard]] mining::Histories known_by(const mining::Histories& histories, Date day,
                                         CustomerSample sample = {});

}  // namespace pear::recommender
