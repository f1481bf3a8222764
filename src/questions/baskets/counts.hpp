// What baskets computes: the values of baskets, and what follows from them.
#pragma once

#include <cstdint>
#include <optional>
#include <string>

#include "analysis/question_input.hpp"
#include "base/error.hpp"
#include "questions/baskets/basket_value.hpp"
#include "questions/baskets/options.hpp"

namespace pear::baskets {

/// All that baskets computes.
struct Counts {
  const analysis::QuestionInput& input;  ///< borrowed
  Options options;
  expression::GroupKey key;
  std::string item;  ///< "product"
  BasketValues facts;

  /// "margin" where there are costs, otherwise "sales".
  [[nodiscard]] std::string value() const { return facts.has_costs ? "margin" : "sales"; }
  [[nodiscard]] std::string title(std::uint32_t code) const;
  /// Enough baskets, and a pull that is above 0 beyond doubt, of what earns less by itself than others.
  [[nodiscard]] bool is_candidate(std::uint32_t code) const;
  /// What the baskets of an item earn without it, by the basket; units.
  [[nodiscard]] std::int64_t companions_per_basket(std::uint32_t code) const;
  /// Margin, or sales, of everything by sales: 0 to 1, NaN without sales.
  [[nodiscard]] double margin_rate() const;
};

/// A discount of some per cent of an item's price: what it takes away, and how many more of its baskets pay
/// for it.
struct Discount {
  std::int64_t cost = 0;                ///< of all its baskets, units
  std::optional<std::int64_t> baskets;  ///< more; none where no number would do

  /// `per_cent` in units of Decimal.
  Discount(const PulledBaskets& item, std::int64_t per_cent);
};

/// a / b as a share; NaN where b is nothing.
[[nodiscard]] double rate_of(const DecimalSum& a, const DecimalSum& b);
[[nodiscard]] DecimalSum minus(const DecimalSum& a, const DecimalSum& b);
/// Units of Decimal; an empty cell of nothing.
[[nodiscard]] std::int64_t mean_units(const DecimalSum& sum, std::uint64_t count);

/// See ask(). Errors: usage, where --level does not fit; data, where nothing was bought.
[[nodiscard]] OrError<Counts> count(const analysis::QuestionInput& input, const Options& options);

}  // namespace pear::baskets
