// How much of a product is bought without a trigger.
#pragma once

#include <vector>

#include "recommender/rates/baseline.hpp"
#include "recommender/steps/step_tests.hpp"
#include "recommender/steps/triggered_products.hpp"

namespace pear::recommender {

/// What the steps to other products trigger.
[[nodiscard]] TriggeredProducts triggered_by(const std::vector<Step>& steps, std::size_t products);

/// By group and product: purchases of customers for whom no step triggers it, divided by their expected
/// purchases, each ratio shrunk towards that of all customers. A product that is often bought after another
/// one is bought less without it. Uses up to 20 million pairs of products and sampled customers. On
/// all threads; the same for any number of them.
[[nodiscard]] std::vector<double> untriggered_ratios(const Baseline& base,
                                                     const TriggeredProducts& triggered);

}  // namespace pear::recommender
