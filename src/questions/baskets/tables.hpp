// The tables, headline and figures of baskets.
#pragma once

#include <cstdint>
#include <optional>
#include <string>
#include <vector>

#include "questions/baskets/basket_value.hpp"
#include "questions/baskets/question.hpp"

namespace pear::baskets {

struct Finding {
  const analysis::QuestionInput& asked;
  const Options& options;
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

[[nodiscard]] result::Table compositions_table(const Finding& finding);
[[nodiscard]] result::Table basket_sizes_table(const Finding& finding);
[[nodiscard]] result::Table pull_table(const Finding& finding);
[[nodiscard]] std::vector<std::string> headline_of(const Finding& finding);
[[nodiscard]] std::vector<result::Figure> figures_of(const Finding& finding);

}  // namespace pear::baskets
