// baskets: what baskets are made of, what they bring, and which products pull profitable ones.
#pragma once

#include <cstdint>
#include <optional>

#include "analysis/question.hpp"
#include "base/error.hpp"
#include "mining/baskets.hpp"
#include "result/result.hpp"

namespace pear::baskets {

struct Options {
  mining::BasketRule within;
  std::optional<expression::Tree> level;  ///< what stands in place of products
  std::optional<std::int64_t> discount;   ///< per cent of an item's price, units of Decimal
  std::int64_t at_least = 20;             ///< baskets that an item must be in to be told of
};

/// Make-ups of baskets with what they bring, sizes, and for each item what it earns, what the rest of its
/// baskets earns, and its pull (see basket_facts.hpp). Margins where the daybook has costs, sales otherwise.
/// Errors: usage, where --level does not fit; data, where nothing was bought.
[[nodiscard]] OrError<result::Result> ask(const analysis::QuestionInput& asked, const Options& options);

[[nodiscard]] analysis::Question question();

}  // namespace pear::baskets
