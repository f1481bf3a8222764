// Why an offer is made: the customers observed, its best days, and a sentence.
#pragma once

#include <string>
#include <utility>

#include "questions/offers/counts.hpp"

namespace pear::offers {

/// Whether similar customers moved the offer of a new product more than anything else did: they raise its
/// probability by a fifth or more, and by more than the customer's group does; and a purchase of the customer
/// says most for it. Does not use Counts::similar.
[[nodiscard]] bool is_due_to_taste(const Counts& counts, const recommender::Offer& offer);

/// The customers observed: those in the position of the step; those who bought the same product before, if
/// they buy this one more often than others do; or those without the product. Of the customer's group if it
/// has 20 such customers or more, otherwise of all.
[[nodiscard]] const recommender::Observed& observed(const Counts& counts, const recommender::Offer& offer);

/// Their rate divided by that of all customers without the product.
[[nodiscard]] double lift(const Counts& counts, const recommender::Offer& offer);

/// The first and last day of the plan.
[[nodiscard]] std::pair<Date, Date> days_of(const Counts& counts);

/// The first and last day on which the offer fits best.
[[nodiscard]] std::pair<Date, Date> best_days(const Counts& counts, const recommender::Offer& offer);

/// A sentence without full stop.
[[nodiscard]] std::string reason(const Counts& counts, const recommender::Offer& offer);

}  // namespace pear::offers
