// The counts of baskets: the values of baskets, and figures derived from them.
#pragma once

#include <cstdint>
#include <optional>
#include <string>
#include <utility>
#include <vector>

#include "analysis/question_input.hpp"
#include "analysis/tables/item_labels.hpp"
#include "base/error.hpp"
#include "questions/baskets/basket_value.hpp"
#include "questions/baskets/options.hpp"

namespace pear::baskets {

/// Everything that baskets computes.
struct Counts {
  const analysis::QuestionInput& input;  ///< borrowed
  Options options;
  expression::GroupKey key;
  std::string item;  ///< "product"
  BasketValues facts;
  std::vector<double> q_values;  ///< of pull, by item; NaN if the item has too few baskets or no pull

  /// "margin" if there are costs, otherwise "sales".
  [[nodiscard]] std::string value() const { return facts.has_costs ? "margin" : "sales"; }
  [[nodiscard]] analysis::ItemLabels names() const { return {input.daybook, key, item}; }
  [[nodiscard]] std::string title(std::uint32_t code) const { return names().title(code); }
  /// Whether the pull of an item is significantly above 0 (q <= 0.05), and its interval above 0.
  [[nodiscard]] bool pulls(std::uint32_t code) const;
  /// Whether it pulls, and earns less itself than others do.
  [[nodiscard]] bool is_candidate(std::uint32_t code) const;
  /// The mean value of an item's baskets without the item, per basket; units.
  [[nodiscard]] std::int64_t companions_per_basket(std::uint32_t code) const;
  /// Total margin divided by the sales of lines with a known cost; NaN without any.
  [[nodiscard]] double margin_rate() const;
};

/// A percentage discount on an item: its cost, and how many more of its baskets pay for it.
struct Discount {
  std::int64_t cost = 0;                ///< of all its baskets, units
  std::optional<std::int64_t> baskets;  ///< more; none if no number would do

  /// `per_cent` in units of Decimal.
  Discount(const PulledBaskets& item, std::int64_t per_cent);
};

/// a / b as a share; NaN if b is 0.
[[nodiscard]] double rate_of(const DecimalSum& a, const DecimalSum& b);
[[nodiscard]] DecimalSum minus(const DecimalSum& a, const DecimalSum& b);
/// Units of Decimal; an empty cell for none.
[[nodiscard]] std::int64_t mean_units(const DecimalSum& sum, std::uint64_t count);

/// Counts of values that may come from elsewhere. Error: data, if nothing was bought.
[[nodiscard]] OrError<Counts> count_from(BasketValues facts,
                                         std::pair<expression::GroupKey, std::string> items,
                                         const analysis::QuestionInput& input, const Options& options);

/// See ask(). Errors: usage, if --count does not fit; data, if nothing was bought.
[[nodiscard]] OrError<Counts> count(const analysis::QuestionInput& input, const Options& options);

}  // namespace pear::baskets
