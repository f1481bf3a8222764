#include "recommender/taste/shared_buyers.hpp"

#include <algorithm>

#include <tbb/blocked_range.h>
#include <tbb/enumerable_thread_specific.h>
#include <tbb/parallel_for.h>

namespace pear::recommender {
namespace {

/// The products of each customer, and the customers of each product.
struct Bought {
  std::vector<std::uint32_t> products;
  std::vector<std::size_t> begins{0};  ///< by customer
  std::vector<std::uint32_t> customers;
  std::vector<std::size_t> begins_of_products;

  [[nodiscard]] std::span<const std::uint32_t> of(std::uint32_t customer) const {
    return std::span(products).subspan(begins[customer], begins[customer + 1] - begins[customer]);
  }
};

Bought bought_by(const mining::Histories& known) {
  constexpr std::uint32_t kMostCustomers = 100'000;
  constexpr std::size_t kMostProducts = 500;  // an id for all cash sales would have all pairs
  Bought bought;
  const CustomerSample sample = CustomerSample::of_about(kMostCustomers, known.customers());
  bought.begins_of_products.assign(known.counts.size() + 1, 0);
  for (std::uint32_t customer = 0; customer < known.customers(); ++customer) {
    if (!sample.contains(customer)) continue;
    const std::size_t begin = bought.products.size();
    for (const mining::HistoryEntry& entry : known.of(customer))
      if (entry.is_first != 0 && bought.products.size() < begin + kMostProducts)
        bought.products.push_back(entry.code);
    if (bought.products.size() > begin) bought.begins.push_back(bought.products.size());
  }
  for (const std::uint32_t product : bought.products) ++bought.begins_of_products[product + 1];
  for (std::size_t product = 1; product < bought.begins_of_products.size(); ++product)
    bought.begins_of_products[product] += bought.begins_of_products[product - 1];
  std::vector<std::size_t> next = bought.begins_of_products;
  bought.customers.resize(bought.products.size());
  for (std::uint32_t customer = 0; customer + 1 < bought.begins.size(); ++customer)
    for (const std::uint32_t product : bought.of(customer)) bought.customers[next[product]++] = customer;
  return bought;
}

}  // namespace

SharedBuyers::SharedBuyers(const mining::Histories& known) {
  const Bought bought = bought_by(known);
  const auto products = static_cast<std::uint32_t>(known.counts.size());
  customers_ = static_cast<std::uint32_t>(bought.begins.size() - 1);
  for (std::uint32_t product = 0; product < products; ++product)
    buyers_.push_back(static_cast<std::uint32_t>(bought.begins_of_products[product + 1] -
                                                 bought.begins_of_products[product]));
  struct Counter {
    std::vector<std::uint32_t> counts, touched;
  };
  tbb::enumerable_thread_specific<Counter> counters([&] {
    return Counter{std::vector<std::uint32_t>(products), {}};
  });
  std::vector<std::vector<Other>> of_products(products);
  tbb::parallel_for(tbb::blocked_range<std::uint32_t>(0, products), [&](const auto& run) {
    auto& [counts, touched] = counters.local();
    for (std::uint32_t product = run.begin(); product != run.end(); ++product) {
      for (std::size_t i = bought.begins_of_products[product]; i < bought.begins_of_products[product + 1];
           ++i)
        for (const std::uint32_t other : bought.of(bought.customers[i]))
          if (other != product && counts[other]++ == 0) touched.push_back(other);
      std::sort(touched.begin(), touched.end());
      for (const std::uint32_t other : touched) of_products[product].push_back({other, counts[other]});
      for (const std::uint32_t other : touched) counts[other] = 0;
      touched.clear();
    }
  });
  for (const std::vector<Other>& own : of_products) {
    others_.insert(others_.end(), own.begin(), own.end());
    begins_.push_back(others_.size());
  }
}

}  // namespace pear::recommender
