// The counts of offers: the plan and its model.
#pragma once

#include <cstdint>
#include <memory>
#include <span>
#include <string>
#include <utility>
#include <vector>

#include "analysis/question_input.hpp"
#include "analysis/tables/item_labels.hpp"
#include "base/error.hpp"
#include "questions/offers/constraints.hpp"
#include "questions/offers/options.hpp"
#include "recommender/plan.hpp"
#include "recommender/rates/pair_rates.hpp"

namespace pear::offers {

/// Shared by the tables, whose sentences are composed when they are read.
struct Counts {
  analysis::QuestionInput input;
  Options options;
  Date as_of;
  recommender::Constraints constraints;
  std::vector<std::uint8_t> planned;         ///< 1 for customers who may be planned for, by customer
  expression::GroupKey products, customers;  ///< their ids as keys
  std::string item = "product";
  mining::Histories known;   ///< what customers bought up to as_of
  std::uint64_t active = 0;  ///< of the planned customers
  recommender::OfferModel model;
  /// By customer, best first: those to contact, and after them those of the control group.
  std::vector<recommender::Offer> offers;
  std::size_t contacted = 0;  ///< the first offers, this many, are not of the control group
  /// Positions in `offers`: those to contact by falling expected value, then likewise the control group.
  std::vector<std::uint32_t> best_first;
  recommender::PairRates similar;  ///< of the pairs (similar, product) of offers that may have this reason

  [[nodiscard]] std::span<const recommender::Offer> offers_to_contact() const {
    return std::span(offers).first(contacted);
  }

  [[nodiscard]] const recommender::PurchaseModel& purchases() const { return model.purchases; }
  [[nodiscard]] const analysis::CustomerGroups& groups() const { return purchases().groups; }
  [[nodiscard]] analysis::ItemLabels names() const { return {input.daybook, products, item}; }
  [[nodiscard]] bool has_margins() const { return purchases().value.has_margins(); }
  /// The expected value of a purchase of the offer, in units of Decimal, rounded to cents.
  [[nodiscard]] std::int64_t expected_amount(const recommender::Offer& offer) const;
  [[nodiscard]] std::int64_t expected_margin(const recommender::Offer& offer) const;
  /// Margin, or, without costs, amount.
  [[nodiscard]] std::int64_t expected_value(const recommender::Offer& offer) const {
    return has_margins() ? expected_margin(offer) : expected_amount(offer);
  }
};

/// Fits the model and plans: for all customers, or for the one of --customer. Errors: usage, if an option
/// does not fit; data, if the sales are too short to learn from or nobody is active.
[[nodiscard]] OrError<std::shared_ptr<const Counts>> count_offers(analysis::QuestionInput input,
                                                                  const Options& options);

/// The customer of --customer. Error: usage, if no customer has that id or name, or several do.
[[nodiscard]] OrError<std::uint32_t> customer_asked(const Counts& counts);

}  // namespace pear::offers
