// The made-up sales of Thistledown & Reel, a mail-order house for yarn and haberdashery.
#pragma once

#include <cstdint>
#include <functional>
#include <string_view>
#include <vector>

#include "base/date.hpp"
#include "base/error.hpp"

namespace pear::demo {

struct ShopOptions {
  std::uint64_t lines =
      16'000;  ///< exactly so many; customers and orders grow in step (1,200 and 5,000 there)
  std::uint64_t seed = 1;
};

struct SaleLine {
  std::uint32_t product = 0;  ///< position in the assortment
  std::int32_t quantity = 0;
  std::int64_t unit_price = 0;  ///< cents
};

struct Order {
  std::uint32_t customer = 0;
  Date date;
  std::uint64_t first_line = 0;  ///< in Shop::lines
  std::uint32_t line_count = 0;
  bool by_telephone = false;
};

struct Customer {
  std::uint8_t kind = 0;    ///< position in kKinds
  std::uint8_t region = 0;  ///< position in kRegions
};

/// Orders stand in order of date, as a shop's system would have numbered them.
struct Shop {
  std::vector<Customer> customers;
  std::vector<Order> orders;
  std::vector<SaleLine> lines;
};

/// Three years, 2023 to 2025. Planted, so that the questions have something to find:
///  - together: sock yarn with sock needles, dye with mordant;
///  - in sequence: starter kit, yarn after about 28 days, pattern book after about 75; spinning wheel, fleece
///  after
///    about 60 days, bobbins 45 days after that;
///  - entry products: buyers of the starter kit come back, buyers of the gift box seldom do;
///  - prices: trade customers pay less for more, and about 3 in 100 private customers pay 12% less for no
///  reason;
///  - a darning needle card that earns nothing itself and stands in the dearest baskets;
///  - an autumn peak.
/// The same options give the same shop on every machine.
[[nodiscard]] Shop make_shop(const ShopOptions& options);

/// The sales as one CSV file, a line of the shop a row, in order of date; `write` takes the text piece by
/// piece.
[[nodiscard]] OrError<void> write_sales(const Shop& shop,
                                        const std::function<OrError<void>(std::string_view)>& write);

}  // namespace pear::demo
