// What offers found, its tables, headline and figures.
#pragma once

#include <cstdint>
#include <memory>
#include <optional>
#include <string>
#include <vector>

#include "question/item_names.hpp"
#include "question/offer_plan.hpp"
#include "question/offer_test.hpp"
#include "question/offers.hpp"

namespace pear {

/// The last day that the plan knows. Error: usage, where the data does not reach so far.
[[nodiscard]] OrError<Date> planning_day(const Asked& asked, const OffersOptions& options);
/// Errors: usage, for a product that there is not; data, where the stock list is wrong.
[[nodiscard]] OrError<OfferBounds> bounds_of(const Asked& asked, const OffersOptions& options);
/// The place of a column of a list, by its name in snake_case; behind all where there is none.
[[nodiscard]] std::size_t column_of(const SideTable& table, std::string_view name);
/// By customer 1 for those who may be planned for.
[[nodiscard]] std::vector<std::uint8_t> planned_of(const Asked& asked);
/// Says so where --where chose customers.
void note_choice(const Asked& asked, Result& result);
/// What customers bought up to a day.
[[nodiscard]] Histories histories_until(const Asked& asked, const GroupKey& products, Date day);

/// The answer to --test.
[[nodiscard]] OrError<Result> test_of_offers(const Asked& asked, const OffersOptions& options);

/// Not copied nor moved: the model borrows groups and shelves.
struct OffersFinding {
  OffersFinding(Asked asked_, OffersOptions options_);
  OffersFinding(const OffersFinding&) = delete;
  OffersFinding& operator=(const OffersFinding&) = delete;
  ~OffersFinding() = default;

  Asked asked;
  OffersOptions options;
  Date as_of;
  GroupKey products, customers;  ///< their ids as keys
  std::string item = "product";
  OfferBounds bounds;
  std::vector<std::uint8_t> planned;  ///< customers who may be planned for
  std::uint64_t active = 0;           ///< of these, how many are
  CustomerGroups groups;
  Shelves shelves;
  std::optional<OfferModel> model;
  std::vector<Offer> offers;  ///< by customer, best first

  [[nodiscard]] ItemNames names() const { return {asked.daybook, products, item}; }
  [[nodiscard]] bool has_margins() const { return model->worth.has_margins(); }
  /// What a purchase of the offer is expected to bring, in units of Decimal.
  [[nodiscard]] std::int64_t expected_amount(const Offer& offer) const;
  [[nodiscard]] std::int64_t expected_margin(const Offer& offer) const;
  /// Margin, or, without costs, amount.
  [[nodiscard]] std::int64_t expected_value(const Offer& offer) const {
    return has_margins() ? expected_margin(offer) : expected_amount(offer);
  }
  /// Whether what is told is of the group of the customer: 20 customers of it or more, who took the step, or
  /// who buy the product more often than all do.
  [[nodiscard]] bool tells_of_group(const Offer& offer) const;
  [[nodiscard]] const Seen& seen_of_group(const Offer& offer) const;
  /// Who was seen to buy it: those with the step, or those without the product, of the group or of all.
  [[nodiscard]] const Seen& seen(const Offer& offer) const;
  /// The rate of these by that of all customers.
  [[nodiscard]] double lift(const Offer& offer) const;
  /// From which day to which the offer fits best.
  [[nodiscard]] std::pair<Date, Date> best_days(const Offer& offer) const;
  /// A sentence without full stop.
  [[nodiscard]] std::string reason(const Offer& offer) const;
  [[nodiscard]] std::string money(std::int64_t units) const;
};

/// Sets worth packing or shelving together, by what they bring.
struct OfferBundle {
  std::vector<std::uint32_t> products;
  std::uint32_t baskets = 0;  ///< orders that hold all
  double lift = 0, q = 1;
  std::uint64_t reached = 0;           ///< customers whom an offer leads to the whole set
  std::int64_t worth = 0, margin = 0;  ///< what its products bring in an order, units
  double beyond = 0;                   ///< baskets beyond those expected by chance
};

/// Of two or three products, each of which has to do with the others (Fisher's exact test of the one that has
/// least; q <= 0.05).
[[nodiscard]] std::vector<OfferBundle> find_bundles(const OffersFinding& finding);

/// Its sentences are worked out as they are read, by the finding that it keeps.
[[nodiscard]] Table offers_table(const std::shared_ptr<const OffersFinding>& kept);
[[nodiscard]] Table offers_products_table(const OffersFinding& finding);
[[nodiscard]] Table bundles_table(const OffersFinding& finding, const std::vector<OfferBundle>& bundles);
[[nodiscard]] std::vector<std::string> offers_headline(const OffersFinding& finding);
[[nodiscard]] std::vector<Figure> offers_figures(const OffersFinding& finding);

[[nodiscard]] Table offers_test_table(const OfferTest& test);
[[nodiscard]] Table calibration_table(const OfferTest& test);
[[nodiscard]] std::vector<std::string> offers_test_headline(const OfferTest& test, const Asked& asked,
                                                            std::int32_t horizon);
[[nodiscard]] std::vector<Figure> offers_test_figures(const OfferTest& test, std::int32_t horizon);

/// One customer's offers, everything that speaks for them, and the history.
[[nodiscard]] OrError<Result> offers_of_one(const std::shared_ptr<OffersFinding>& kept,
                                            const Histories& known, std::uint32_t customer);

}  // namespace pear
