// The made-up sales of Thistledown & Reel, a mail-order business for yarn and haberdashery.
#pragma once

#include <cstdint>
#include <functional>
#include <string>
#include <string_view>
#include <vector>

#include "base/date.hpp"
#include "base/error.hpp"
#include "demo/assortment.hpp"

namespace pear::demo {

struct ShopOptions {
  std::uint64_t lines =
      16'000;  ///< exactly this many; customers and orders grow in proportion (1,200 and 5,000 here)
  std::uint64_t seed = 1;
  /// On the shop's list, at least kListedProducts: the products of the assortment in variants, of which the
  /// first sell best (the n-th about 1 / n times as often), and of which a customer often buys the same
  /// again.
  std::uint32_t products = kListedProducts;
};

struct SaleLine {
  std::uint32_t product = 0;    ///< position in the assortment
  std::int32_t quantity = 0;    ///< negative for a return
  std::int64_t unit_price = 0;  ///< cents
  std::uint32_t variant = 0;
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

/// Orders are in order of date, as a shop's system would number them.
struct Shop {
  std::vector<Customer> customers;
  std::vector<Order> orders;
  std::vector<SaleLine> lines;
  std::uint32_t products = kListedProducts;

  /// The number of variants of a product of the assortment.
  [[nodiscard]] std::uint32_t variants(std::uint32_t product) const {
    return product == kUnlisted ? 1
                                : products / kListedProducts + (product < products % kListedProducts ? 1 : 0);
  }
};

/// "P12"; "P12-3" for the third variant.
[[nodiscard]] std::string product_id(std::uint32_t product, std::uint32_t variant);
/// "Sock yarn moss", "Sock yarn moss no. 3".
[[nodiscard]] std::string product_name(std::uint32_t product, std::uint32_t variant);

/// Three years, 2023 to 2025. Planted structure:
///  - together: sock yarn with sock needles, dye with mordant;
///  - in sequence, as kSequels says: spinning wheel, fleece after about 60 days, bobbins 45 days after that;
///  starter kit, pattern book after about 75; and others like them. After a starter kit also yarn, in 28
///  days;
///  - entry products: buyers of the starter kit order again, buyers of the gift box seldom do;
///  - prices: trade customers pay less for more, and about 3 in 100 private customers pay 12% less for no
///  reason;
///  - a darning needle card without margin in the most expensive baskets;
///  - an autumn peak;
///  - now and then a return, as an order of its own some days later; a product that no list knows.
/// The same options give the same shop on every machine.
[[nodiscard]] Shop make_shop(const ShopOptions& options);

using Write = std::function<OrError<void>(std::string_view)>;

}  // namespace pear::demo
