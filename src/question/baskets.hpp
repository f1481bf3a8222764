// baskets: what baskets are made of, what they bring, and which products pull profitable ones.
#pragma once

#include <cstdint>
#include <optional>

#include "base/error.hpp"
#include "question/basket_walk.hpp"
#include "question/question.hpp"
#include "result/result.hpp"

namespace pear {

struct BasketsOptions {
  BasketRule within;
  std::optional<Tree> level;             ///< what stands in place of products
  std::optional<std::int64_t> discount;  ///< per cent of an item's price, units of Decimal
  std::int64_t at_least = 20;            ///< baskets that an item must be in to be told of
};

/// Make-ups of baskets with what they bring, sizes, and for each item what it earns, what the rest of its
/// baskets earns, and its pull (see basket_facts.hpp). Margins where the daybook has costs, sales otherwise.
/// Errors: usage, where --level does not fit; data, where nothing was bought.
[[nodiscard]] OrError<Result> ask_baskets(const Asked& asked, const BasketsOptions& options);

[[nodiscard]] Question baskets_question();

}  // namespace pear
