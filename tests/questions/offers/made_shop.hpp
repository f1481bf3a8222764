// A shop with planted steps and kinds of customers, and what its customers bought.
#pragma once

#include <algorithm>
#include <cmath>
#include <map>
#include <random>
#include <string>
#include <vector>

#include <fmt/format.h>

#include "support/asking.hpp"
#include "support/results.hpp"

namespace pear::test {

constexpr int kFirstDay = 19'000, kDays = 730;
constexpr int kProducts = 30;

/// A shop of two years. Customers of two kinds order now and then what their kind likes. With structure, P1
/// is followed by P2 after about 30 days and that by P3 after about 50, P4 by P5 after about 70, and P6 is
/// bought again every 40 days.
struct MadeShop {
  Sales sales;
  std::vector<int> kinds;  ///< by number of the customer
};

inline MadeShop make_shop(int customers, bool has_structure, bool has_kinds, unsigned seed,
                          int days = kDays) {
  std::mt19937 random(seed);
  const auto whole = [&](int low, int high) {
    return low + static_cast<int>(random() % static_cast<unsigned>(high - low + 1));
  };
  const auto happens = [&](int per_cent) { return whole(1, 100) <= per_cent; };
  MadeShop shop;
  for (int customer = 0; customer < customers; ++customer) {
    const int kind = has_kinds ? whole(0, 1) : 0;
    shop.kinds.push_back(kind);
    std::multimap<int, int> wanted;  // day, product
    constexpr int kGap = 55;
    const int begin = whole(0, days - 30);
    const auto waiting = [&] { return 1 + static_cast<int>(-kGap * std::log(whole(1, 1'000) / 1'000.0)); };
    for (int day = begin; day < days; day += waiting()) {
      const int favourite = std::min(whole(0, 11), whole(0, 11)) + kind * 12 + 7;
      wanted.emplace(day, std::min(favourite, kProducts));
      if (has_structure && happens(12)) wanted.emplace(day, 1);
      if (has_structure && happens(12)) wanted.emplace(day, 4);
      if (has_structure && happens(3)) wanted.emplace(day, 6);
    }
    const std::map<int, std::pair<int, int>> next = {{1, {2, 30}}, {2, {3, 50}}, {4, {5, 70}}, {6, {6, 40}}};
    for (const auto& [day, product] : wanted) {
      if (const auto step = next.find(product); has_structure && step != next.end() && happens(70))
        wanted.emplace(day + step->second.second + whole(-6, 6), step->second.first);
      if (day < days)
        shop.sales.push_back({fmt::format("A{}-{}", customer, day), to_text(Date{kFirstDay + day}),
                              fmt::format("C{}", customer), fmt::format("P{}", product), whole(1, 3),
                              100 * product});
    }
  }
  return shop;
}

/// With the column `kind` of customers.
inline daybook::Daybook daybook_of(const MadeShop& shop) {
  daybook::DaybookParts parts = build(shop.sales).daybook.take_parts();
  daybook::TextValues kinds;
  kinds.dictionary.push_back("even");
  kinds.dictionary.push_back("odd");
  for (std::uint32_t customer = 0; customer < parts.customer_ids.size(); ++customer)
    kinds.codes.push_back(static_cast<std::uint32_t>(shop.kinds[static_cast<std::size_t>(
        std::stoi(std::string(parts.customer_ids[customer]).substr(1)))]));
  parts.columns.push_back({"kind", daybook::Level::customer, std::move(kinds)});
  return daybook::Daybook(std::move(parts));
}

inline int day_of(const std::string& text) { return parse_iso_moment(text)->date.days; }

/// All purchases, by customer and product: days in order.
using Bought = std::map<std::string, std::map<std::string, std::vector<int>>>;

inline Bought bought_until(const Sales& sales, int day) {
  Bought bought;
  for (const Sale& sale : sales)
    if (sale.quantity > 0 && day_of(sale.date) <= day)
      bought[sale.customer_id][sale.product_id].push_back(day_of(sale.date));
  for (auto& [customer, products] : bought)
    for (auto& [product, days] : products) std::sort(days.begin(), days.end());
  return bought;
}

inline const int kLastDay = kFirstDay + kDays - 1;

}  // namespace pear::test
