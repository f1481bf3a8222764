// Why an offer is made: the customers it was observed of, its best days, and a sentence.
#pragma once

#include <string>
#include <utility>

#include "questions/offers/counts.hpp"

namespace pear::offers {

/// Who was observed to buy it: those in the position of the step, or those without the product, of the
/// customer's group where it has 20 customers or more, and else of all.
[[nodiscard]] const recommender::Observed& observed(const Counts& counts, const recommender::Offer& offer);

/// The rate of these by that of all customers without the product.
[[nodiscard]] double lift(const Counts& counts, const recommender::Offer& offer);

/// From which day to which the offer fits best.
[[nodiscard]] std::pair<Date, Date> best_days(const Counts& counts, const recommender::Offer& offer);

/// A sentence without full stop.
[[nodiscard]] std::string reason(const Counts& counts, const recommender::Offer& offer);

}  // namespace pear::offers
