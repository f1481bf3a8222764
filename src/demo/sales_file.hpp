// The made-up sales as one file.
#pragma once

#include "base/error.hpp"
#include "demo/shop.hpp"

namespace pear::demo {

/// The sales as one clean CSV file, a line of the shop a row, in order of date; `write` takes the text piece
/// by piece.
[[nodiscard]] OrError<void> write_sales(const Shop& shop, const Write& write);

}  // namespace pear::demo
