// Ids and names of the made-up shop's customers and orders.
#pragma once

#include <cstddef>
#include <cstdint>
#include <string>

namespace pear::demo {

/// A customer's id and name: made of syllables, unique for the first 160,000 but for a few namesakes.
[[nodiscard]] std::string customer_id(std::uint32_t customer);
[[nodiscard]] std::string customer_name(std::uint32_t customer);
[[nodiscard]] std::string order_id(std::size_t order);

}  // namespace pear::demo
