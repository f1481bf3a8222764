// What offers found, its tables, headline and figures.
#pragma once

#include <cstdint>
#include <memory>
#include <optional>
#include <string>
#include <vector>

#include "analysis/item_labels.hpp"
#include "questions/offers/question.hpp"
#include "recommender/backtest.hpp"
#include "recommender/plan.hpp"

namespace pear::offers {

/// The last day that the plan knows. Error: usage, where the data does not reach so far.
[[nodiscard]] OrError<Date> planning_day(const analysis::QuestionInput& asked, const Options& options);
/// Errors: usage, for a product that there is not; data, where the stock list is wrong.
[[nodiscard]] OrError<recommender::Constraints> constraints_of(const analysis::QuestionInput& asked,
                                                               const Options& options);
/// The place of a column of a list, by its name in snake_case; behind all where there is none.
[[nodiscard]] std::size_t column_of(const analysis::SideTable& table, std::string_view name);
/// By customer 1 for those who may be planned for.
[[nodiscard]] std::vector<std::uint8_t> planned_of(const analysis::QuestionInput& asked);
/// Says so where --where chose customers.
void note_choice(const analysis::QuestionInput& asked, result::Result& result);
/// What customers bought up to a day.
[[nodiscard]] mining::Histories histories_until(const analysis::QuestionInput& asked,
                                                const expression::GroupKey& products, Date day);

/// The answer to --test.
[[nodiscard]] OrError<result::Result> ask_backtest(const analysis::QuestionInput& asked,
                                                   const Options& options);

/// Not copied nor moved: the model borrows groups and shelves.
struct Finding {
  Finding(analysis::QuestionInput asked_, Options options_);
  Finding(const Finding&) = delete;
  Finding& operator=(const Finding&) = delete;
  ~Finding() = default;

  analysis::QuestionInput asked;
  Options options;
  Date as_of;
  expression::GroupKey products, customers;  ///< their ids as keys
  std::string item = "product";
  recommender::Constraints bounds;
  std::vector<std::uint8_t> planned;  ///< customers who may be planned for
  std::uint64_t active = 0;           ///< of these, how many are
  analysis::CustomerGroups groups;
  recommender::Categories shelves;
  std::optional<recommender::PurchaseModel> model;
  std::vector<recommender::Offer> offers;  ///< by customer, best first

  [[nodiscard]] analysis::ItemLabels names() const { return {asked.daybook, products, item}; }
  [[nodiscard]] bool has_margins() const { return model->worth.has_margins(); }
  /// What a purchase of the offer is expected to bring, in units of Decimal.
  [[nodiscard]] std::int64_t expected_amount(const recommender::Offer& offer) const;
  [[nodiscard]] std::int64_t expected_margin(const recommender::Offer& offer) const;
  /// Margin, or, without costs, amount.
  [[nodiscard]] std::int64_t expected_value(const recommender::Offer& offer) const {
    return has_margins() ? expected_margin(offer) : expected_amount(offer);
  }
  /// Whether what is told is of the group of the customer: 20 customers of it or more, who took the step, or
  /// who buy the product more often than all do.
  [[nodiscard]] bool tells_of_group(const recommender::Offer& offer) const;
  [[nodiscard]] const recommender::Observed& seen_of_group(const recommender::Offer& offer) const;
  /// Who was seen to buy it: those with the step, or those without the product, of the group or of all.
  [[nodiscard]] const recommender::Observed& seen(const recommender::Offer& offer) const;
  /// The rate of these by that of all customers.
  [[nodiscard]] double lift(const recommender::Offer& offer) const;
  /// From which day to which the offer fits best.
  [[nodiscard]] std::pair<Date, Date> best_days(const recommender::Offer& offer) const;
  /// A sentence without full stop.
  [[nodiscard]] std::string reason(const recommender::Offer& offer) const;
  [[nodiscard]] std::string money(std::int64_t units) const;
};

/// Sets worth packing or shelving together, by what they bring.
struct Bundle {
  std::vector<std::uint32_t> products;
  std::uint32_t baskets = 0;  ///< orders that hold all
  double lift = 0, q = 1;
  std::uint64_t reached = 0;           ///< customers whom an offer leads to the whole set
  std::int64_t worth = 0, margin = 0;  ///< what its products bring in an order, units
  double beyond = 0;                   ///< baskets beyond those expected by chance
};

/// Of two or three products, each of which has to do with the others (Fisher's exact test of the one that has
/// least; q <= 0.05).
[[nodiscard]] std::vector<Bundle> find_bundles(const Finding& finding);

/// Its sentences are worked out as they are read, by the finding that it keeps.
[[nodiscard]] result::Table plan_table(const std::shared_ptr<const Finding>& kept);
[[nodiscard]] result::Table products_table(const Finding& finding);
[[nodiscard]] result::Table bundles_table(const Finding& finding, const std::vector<Bundle>& bundles);
[[nodiscard]] std::vector<std::string> headline_of(const Finding& finding);
[[nodiscard]] std::vector<result::Figure> figures_of(const Finding& finding);

[[nodiscard]] result::Table backtest_table(const recommender::Backtest& test);
[[nodiscard]] result::Table calibration_table(const recommender::Backtest& test);
[[nodiscard]] std::vector<std::string> backtest_headline(const recommender::Backtest& test,
                                                         const analysis::QuestionInput& asked,
                                                         std::int32_t horizon);
[[nodiscard]] std::vector<result::Figure> backtest_figures(const recommender::Backtest& test,
                                                           std::int32_t horizon);

/// One customer's offers, everything that speaks for them, and the history.
[[nodiscard]] OrError<result::Result> ask_one_customer(const std::shared_ptr<Finding>& kept,
                                                       const mining::Histories& known,
                                                       std::uint32_t customer);

}  // namespace pear::offers
