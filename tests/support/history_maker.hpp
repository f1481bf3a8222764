// Purchase histories, made by hand or at random.
#pragma once

#include <map>
#include <set>

#include "analysis/customer_groups.hpp"
#include "mining/purchase_histories.hpp"
#include "support/random_shop.hpp"

namespace pear::test {

constexpr int kBegin = 19'000;

/// Purchases of one customer after another; each has a day and products, and products are numbers.
class HistoryMaker {
 public:
  explicit HistoryMaker(std::size_t products) { histories_.counts.resize(products); }

  void order(int day, const std::set<std::uint32_t>& products) {
    for (const std::uint32_t product : products) {
      mining::HistoryEntry entry;
      entry.code = product;
      entry.order = orders_ & 0xFFFFFFU;
      entry.is_first = had_.insert(product).second ? 1 : 0;
      entry.day = kBegin + day;
      histories_.entries.push_back(entry);
      if (entry.is_first != 0) ++histories_.counts[product];
    }
    ++orders_;
  }
  void end_customer() {
    histories_.buyers += had_.empty() ? 0U : 1U;
    histories_.begins.push_back(static_cast<std::uint32_t>(histories_.entries.size()));
    had_.clear();
  }
  [[nodiscard]] const mining::Histories& histories() const { return histories_; }

 private:
  mining::Histories histories_;
  std::set<std::uint32_t> had_;
  unsigned orders_ = 0;
};

inline mining::Histories random_purchases(int customers, int products, int days) {
  HistoryMaker maker(static_cast<std::size_t>(products));
  for (int customer = 0; customer < customers; ++customer) {
    std::map<int, std::set<std::uint32_t>> orders;
    for (int order = pick(0, 6); order > 0; --order)
      for (int line = pick(1, 3); line > 0; --line)
        orders[pick(0, days)].insert(static_cast<std::uint32_t>(pick(0, products - 1)));
    for (const auto& [day, bought] : orders) maker.order(day, bought);
    maker.end_customer();
  }
  return maker.histories();
}

inline analysis::CustomerGroups one_group(std::uint32_t customers) {
  analysis::CustomerGroups groups;
  groups.count = 1;
  groups.of_customer.assign(customers, 0);
  return groups;
}

}  // namespace pear::test
