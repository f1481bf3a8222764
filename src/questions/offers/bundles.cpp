#include "questions/offers/bundles.hpp"

#include <algorithm>
#include <cmath>
#include <utility>

#include <fmt/format.h>
#include <tbb/blocked_range.h>
#include <tbb/enumerable_thread_specific.h>
#include <tbb/parallel_for.h>

#include "analysis/tables/parallel_texts.hpp"
#include "analysis/tables/table_builder.hpp"
#include "base/text.hpp"
#include "mining/association.hpp"
#include "mining/baskets.hpp"
#include "mining/frequent_itemsets.hpp"
#include "statistics/significance.hpp"

namespace pear::offers {
namespace {

/// The test of the product that is least associated with the others.
mining::Association weakest_link(const mining::ItemSets& sets, const std::vector<mining::Association>& tested,
                                 const mining::SetIndex& index, std::size_t set,
                                 const mining::Baskets& baskets) {
  const auto codes = sets.codes(set);
  mining::Association weakest{0, 0, 1};
  for (std::size_t left_out = 0; left_out < codes.size(); ++left_out) {
    std::vector<std::uint32_t> others(codes.begin(), codes.end());
    others.erase(others.begin() + static_cast<std::ptrdiff_t>(left_out));
    const std::size_t given = *index.find(others);
    const mining::Association link = mining::AssociationTests::of_rule(
        {sets.baskets(set), sets.baskets(given), baskets.counts[codes[left_out]], sets.squares(set),
         tested[set].expected, tested[given].expected});
    if (link.p >= weakest.p) weakest = link;
  }
  weakest.expected = tested[set].expected;
  return weakest;
}

/// By bundle, the customers with an offer of one of its products who have all others, or are offered them,
/// too. One for each thread.
class BundleCounter {
 public:
  BundleCounter(const Counts& counts, const std::vector<Bundle>& bundles)
      : daybook_(counts.input.daybook),
        purchases_(daybook_),
        as_of_(counts.as_of),
        bundles_(bundles),
        with_product_(counts.products.distinct),
        has_(counts.products.distinct, daybook::kNoMember),
        counted_(bundles.size(), daybook::kNoMember),
        reached_(bundles.size()) {
    for (std::uint32_t i = 0; i < bundles.size(); ++i)
      for (const std::uint32_t product : bundles[i].products) with_product_[product].push_back(i);
  }

  /// All offers of one customer.
  void count(std::span<const recommender::Offer> offers) {
    const std::uint32_t customer = offers.front().customer;
    const daybook::Run orders = daybook_.orders_of(customer);
    for (std::uint32_t order = orders.begin; order < orders.end; ++order) {
      if (daybook_.date_of_order(order) > as_of_) break;
      const daybook::Run lines = daybook_.lines_of(order);
      for (std::uint32_t line = lines.begin; line < lines.end; ++line)
        if (purchases_.is_of_product(line)) has_[daybook_.line_products()[line]] = customer;
    }
    for (const recommender::Offer& offer : offers) has_[offer.product] = customer;
    for (const recommender::Offer& offer : offers)
      for (const std::uint32_t bundle : with_product_[offer.product]) {
        const auto& products = bundles_[bundle].products;
        if (std::all_of(products.begin(), products.end(),
                        [&](std::uint32_t product) { return has_[product] == customer; }) &&
            std::exchange(counted_[bundle], customer) != customer)
          ++reached_[bundle];
      }
  }

  [[nodiscard]] std::uint64_t reached(std::size_t bundle) const { return reached_[bundle]; }

 private:
  const daybook::Daybook& daybook_;
  daybook::Purchases purchases_;
  Date as_of_;
  const std::vector<Bundle>& bundles_;
  std::vector<std::vector<std::uint32_t>> with_product_;  ///< bundles by product
  std::vector<std::uint32_t> has_, counted_;  ///< by product, and bundle, the last customer counted
  std::vector<std::uint64_t> reached_;
};

void count_reached(const Counts& counts, std::vector<Bundle>& bundles) {
  constexpr std::size_t kOffersPerRun = 16'384;
  const auto offers = counts.offers_to_contact();
  tbb::enumerable_thread_specific<BundleCounter> counters([&] { return BundleCounter(counts, bundles); });
  tbb::parallel_for(tbb::blocked_range<std::size_t>(0, offers.size(), kOffersPerRun), [&](const auto& run) {
    BundleCounter& counter = counters.local();
    const auto begins = [&](std::size_t i) { return i == 0 || offers[i].customer != offers[i - 1].customer; };
    for (std::size_t begin = run.begin(); begin < run.end(); ++begin) {
      if (!begins(begin)) continue;  // counted with its first offer
      std::size_t end = begin + 1;
      while (end < offers.size() && !begins(end)) ++end;
      counter.count(offers.subspan(begin, end - begin));
    }
  });
  for (const BundleCounter& counter : counters)
    for (std::size_t i = 0; i < bundles.size(); ++i) bundles[i].reached += counter.reached(i);
}

}  // namespace

std::vector<Bundle> find_bundles(const Counts& counts) {
  constexpr std::uint32_t kFewest = 5;
  constexpr std::size_t kLargest = 3, kMost = 20'000;
  const mining::Baskets baskets =
      mining::gather_baskets(counts.input.daybook, counts.products, {}, counts.as_of);
  const auto size = static_cast<double>(baskets.size());
  mining::MiningBounds bounds{std::max(kFewest, static_cast<std::uint32_t>(std::ceil(size / 1000))), kLargest,
                              kMost};
  bounds.least = mining::support_that_fits(baskets, bounds);
  const auto sets = mining::mine_sets(baskets, bounds);
  std::vector<Bundle> bundles;
  if (!sets) return bundles;
  const mining::SetIndex index(*sets);
  const std::vector<mining::Association> tested = mining::test_sets({baskets, true}, *sets);
  std::vector<mining::Association> links;
  for (std::size_t set = 0; set < sets->size(); ++set) {
    const auto codes = sets->codes(set);
    if (codes.size() < 2) continue;
    Bundle bundle{{codes.begin(), codes.end()}, sets->baskets(set), 0, 1, 0, 0, 0};
    double amount = 0, margin = 0;
    for (const std::uint32_t code : codes) {
      amount += counts.purchases().value.amount(code);
      if (counts.has_margins()) margin += counts.purchases().value.margin(code);
    }
    links.push_back(weakest_link(*sets, tested, index, set, baskets));
    bundle.lift = bundle.baskets / links.back().expected;
    bundle.beyond = bundle.baskets - links.back().expected;
    bundle.amount = std::llround(amount), bundle.margin = std::llround(margin);
    bundles.push_back(std::move(bundle));
  }
  const auto frequent =
      static_cast<std::uint64_t>(std::count_if(baskets.counts.begin(), baskets.counts.end(),
                                               [&](std::uint32_t count) { return count >= bounds.least; }));
  for (std::size_t items = 2; items <= kLargest; ++items) {
    std::vector<mining::Association*> of_size;
    for (std::size_t i = 0; i < bundles.size(); ++i)
      if (bundles[i].products.size() == items) of_size.push_back(&links[i]);
    mining::control_false_discoveries(of_size, mining::combinations(frequent, items));
  }
  for (std::size_t i = 0; i < bundles.size(); ++i) bundles[i].q = links[i].q;
  std::erase_if(bundles,
                [](const Bundle& each) { return each.q > statistics::kFalseDiscovery || each.lift <= 1; });
  const auto gain = [&](const Bundle& each) {
    return each.beyond * static_cast<double>(counts.has_margins() ? each.margin : each.amount);
  };
  std::stable_sort(bundles.begin(), bundles.end(),
                   [&](const Bundle& a, const Bundle& b) { return gain(a) > gain(b); });
  count_reached(counts, bundles);
  return bundles;
}

result::Table bundles_table(const Counts& counts, const std::vector<Bundle>& bundles) {
  result::Table table{"bundles",
                      "Bundles to sell or display together",
                      "One row for each set of products that orders contain together significantly more "
                      "often than expected by chance; the most valuable ones first.",
                      {}};
  const auto texts = [&](bool names) {
    return analysis::parallel_texts(bundles.size(), [&](std::size_t row, std::string& text) {
      for (const std::uint32_t product : bundles[row].products)
        text += (text.empty() ? "" : " + ") +
                (names ? counts.names().name(product) : expression::label_text(counts.products, product));
    });
  };
  analysis::TableBuilder builder(table, bundles);
  builder.add(result::text_column("products", "Products of the set.", texts(false))).always_shown = true;
  if (counts.names().are_named())
    builder.add(result::text_column("names", "The same with names.", texts(true))).always_shown = true;
  builder.count("size", "Products.", [](const Bundle& row) { return row.products.size(); });
  builder.count("baskets", "Orders that contain all of them.", [](const Bundle& row) { return row.baskets; })
      .always_shown = true;
  builder
      .number("lift", "baskets / baskets expected by chance.", 1, [](const Bundle& row) { return row.lift; })
      .always_shown = true;
  builder.probability("q_value", "False discovery rate among sets with a p value this small.",
                      [](const Bundle& row) { return row.q; });
  builder.rounded_money("amount", "Sum of the mean amounts of these products in an order.",
                        [](const Bundle& row) { return row.amount; });
  if (counts.has_margins())
    builder.rounded_money("margin", "Sum of the mean margins of these products in an order.",
                          [](const Bundle& row) { return row.margin; });
  builder
      .count("customers_reached",
             "Planned customers who are offered one of them, and have the others or are offered them.",
             [](const Bundle& row) { return row.reached; })
      .always_shown = true;
  return table;
}

}  // namespace pear::offers
