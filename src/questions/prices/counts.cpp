#include "questions/prices/counts.hpp"

#include <algorithm>
#include <atomic>
#include <utility>

#include <fmt/format.h>
#include <tbb/parallel_for.h>
#include <tbb/parallel_sort.h>

#include "analysis/find_member.hpp"
#include "daybook/select.hpp"

namespace pear::prices {
namespace {

struct KeptPairs {
  std::vector<std::uint32_t> pairs;
  std::uint32_t customers = 0;
};

/// Pairs within the bounds and of the requested product, the largest gap first; the smallest first if only
/// those who pay more are requested. Those without gap come last; equal ones by product and customer.
KeptPairs rows_of(const PriceComparison& levels, const Options& options, std::optional<std::uint32_t> product,
                  std::uint32_t customers) {
  struct Row {
    std::int64_t gap;
    std::uint32_t pair;
  };
  const daybook::Run run = product ? levels.paid().of_product(*product)
                                   : daybook::Run{0, static_cast<std::uint32_t>(levels.paid().size())};
  const bool upwards = options.above && !options.below;
  const auto is_kept = [&](std::uint32_t pair) {
    return (!options.below || levels.is_below(pair, *options.below)) &&
           (!options.above || levels.is_above(pair, *options.above));
  };
  constexpr std::uint32_t kPart = 65'536;
  std::vector<std::uint8_t> is_among(customers);
  std::vector<std::vector<Row>> parts((run.size() + kPart - 1) / kPart);
  tbb::parallel_for(std::size_t{0}, parts.size(), [&](std::size_t part) {
    const auto begin = static_cast<std::uint32_t>(run.begin + part * kPart);
    for (std::uint32_t pair = begin; pair < std::min(run.end, begin + kPart); ++pair) {
      if (!is_kept(pair)) continue;
      std::atomic_ref(is_among[levels.paid()[pair].customer]).store(1, std::memory_order_relaxed);
      const std::int64_t gap = levels.gap(pair);
      parts[part].push_back({upwards && gap != daybook::kEmptyUnits ? -gap : gap, pair});
    }
  });
  std::vector<Row> rows;
  for (std::vector<Row>& part : parts) {
    rows.insert(rows.end(), part.begin(), part.end());
    part = {};
  }
  tbb::parallel_sort(rows.begin(), rows.end(), [](const Row& a, const Row& b) {
    return a.gap != b.gap ? a.gap > b.gap : a.pair < b.pair;
  });
  KeptPairs kept{{}, static_cast<std::uint32_t>(std::count(is_among.begin(), is_among.end(), 1))};
  kept.pairs.reserve(rows.size());
  for (const Row& row : rows) kept.pairs.push_back(row.pair);
  return kept;
}

}  // namespace

std::string Counts::compared_with() const {
  switch (options.against) {
    case Against::all:
      return "the average of all";
    case Against::others:
      return "what others pay";
    case Against::list:
      break;
  }
  return "the list price";
}

std::uint64_t Counts::pairs() const {
  if (product) return levels->product(*product).customers;
  std::uint64_t all = 0;
  for (const ProductPrices& each : levels->products()) all += each.customers;
  return all;
}

OrError<void> check_prices(const Options& options, bool has_list_prices, bool has_prices) {
  if (options.against == Against::list && !has_list_prices)
    return usage_error(
        "--against list: there is no list_price. Import it from the product list or a price list (see "
        "docs/intake-file.md), or compare with others.");
  if (!has_prices) return data_error("no line has a quantity above 0, so there are no prices.");
  return {};
}

Counts counts_of(analysis::QuestionInput input, const Options& options, std::optional<std::uint32_t> product,
                 PriceComparison levels, std::vector<CustomerPrices> customers) {
  KeptPairs rows = rows_of(levels, options, product, input.daybook.customers());
  tbb::parallel_sort(customers.begin(), customers.end(),
                     [](const CustomerPrices& a, const CustomerPrices& b) {
                       return a.gap != b.gap ? a.gap > b.gap : a.customer < b.customer;
                     });
  return Counts{std::move(input),
                options,
                product,
                std::make_shared<PriceComparison>(std::move(levels)),
                std::make_shared<std::vector<std::uint32_t>>(std::move(rows.pairs)),
                rows.customers,
                std::make_shared<std::vector<CustomerPrices>>(std::move(customers)),
                {}};
}

OrError<Counts> count(analysis::QuestionInput input, const Options& options) {
  std::optional<std::uint32_t> product;
  if (options.product) {
    PEAR_ASSIGN(product, analysis::find_one(input.daybook, daybook::Level::product, *options.product));
  }
  PEAR_ASSIGN(CustomerProductPrices paid, CustomerProductPrices::gather(input.daybook));
  PEAR_TRY(check_prices(options, paid.has_list_prices(),
                        paid.size() > 0 && (!product || paid.of_product(*product).size() > 0)));
  std::vector<MonthPrices> months;
  if (product) months = months_of(input.daybook, *product);
  std::optional<PriceOfTheTime> time(std::in_place, input.daybook, paid);
  PEAR_ASSIGN(PriceComparison levels, PriceComparison::work_out(std::move(paid), time->take_sums(),
                                                                options.against, options.at_least));
  const std::vector<OrderEvidence> evidence = order_evidence(input.daybook, levels, *time);
  time.reset();
  levels.forget_lines();
  input.daybook = daybook::without_lines(std::move(input.daybook));
  PEAR_ASSIGN(std::vector<CustomerPrices> customers, customer_price_indices(input.daybook, levels, evidence));
  Counts counts = counts_of(std::move(input), options, product, std::move(levels), std::move(customers));
  counts.months = std::move(months);
  return counts;
}

}  // namespace pear::prices
