// Why an offer is made: the customers observed, its best days, and a sentence.
#pragma once

#include <string>
#include <utility>

#include "questions/offers/counts.hpp"

namespace pear::offers {

/// The customers observed: those in the position of the step, or those without the product; of the customer's
/// group if it has 20 such customers or more, otherwise of all.
[[nodiscard]] const recommender::Observed& observed(const Counts& counts, const recommender::Offer& offer);

/// Their rate divided by that of all customers without the product.
[[nodiscard]] double lift(const Counts& counts, const recommender::Offer& offer);

/// The first and last day on which the offer fits best.
[[nodiscard]] std::pair<Date, Date> best_days(const Counts& counts, const recommender::Offer& offer);

/// A sentence without full stop.
[[nodiscard]] std::string reason(const Counts& counts, const recommender::Offer& offer);

}  // namespace pear::offers
