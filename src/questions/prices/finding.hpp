// The finding of prices: headline, definitions, notes and checks.
#pragma once

#include <string>
#include <vector>

#include "questions/prices/counts.hpp"
#include "result/result.hpp"

namespace pear::prices {

/// "12.50 EUR", of units of Decimal.
[[nodiscard]] std::string money(const Counts& counts, double units);
/// How many customers pay less than volume explains, and how much less.
[[nodiscard]] std::string unexplained_sentence(const Counts& counts);
/// How much less a customer paid for the same pieces, without full stop.
[[nodiscard]] std::string largest_gap(const Counts& counts, const CustomerPrices& most);
/// Of the requested product.
[[nodiscard]] std::vector<std::string> product_headline(const Counts& counts);

[[nodiscard]] std::vector<std::string> headline_of(const Counts& counts);
/// What customers without and with far more volume pay less than usual, of the first two sentences.
[[nodiscard]] std::vector<result::Stake> stakes_of(const Counts& counts);
[[nodiscard]] result::Definitions definitions_of(const Counts& counts);
void add_notes(const Counts& counts, result::Result& result);
void add_checks(const Counts& counts, result::Result& result);

}  // namespace pear::prices
