// Every pair of products tested for more purchases than there would have been anyway.
#include "question/offer_steps.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <utility>

#include <tbb/enumerable_thread_specific.h>

#include "statistics/evidence.hpp"
#include "statistics/proportion.hpp"

namespace pear {
namespace {

constexpr std::uint64_t kFewest = 3;  ///< purchases that can be no chance
constexpr double kLeastMore = 0.02;   ///< that a step surely adds where it adds most

/// Each pair is tested over the time since the earlier purchase up to the beginning of these bands, and over
/// all of it: what follows soon is not to drown in years.
constexpr std::array<std::int32_t, 4> kStretches = {30, 60, 120, INT32_MAX};

/// Follows the buyers of one product after another. One for each thread.
class StepCounter {
 public:
  explicit StepCounter(const OfferBase& model)
      : model_(model),
        products_(model.histories.counts.size()),
        counts_(kAgeBandCount * products_),
        sums_(model.groups.count * kAgeBandCount * model.shelves.count),
        shelf_counts_(model.shelves.count),
        shelf_shares_(model.shelves.count) {}

  /// The pairs of which a test may be passed.
  std::vector<FoundStep> count(std::uint32_t earlier, std::span<const std::uint32_t> buyers) {
    std::fill(counts_.begin(), counts_.end(), Count{});
    std::fill(sums_.begin(), sums_.end(), Sum{});
    cases_ = {}, customers_ = {};
    walk_buyers(model_.histories, buyers, [&](std::uint32_t customer) { follow(earlier, customer); });
    std::vector<FoundStep> found;
    for (std::uint32_t later = 0; later < products_; ++later) test(earlier, later, found);
    return found;
  }

 private:
  struct Count {
    std::uint32_t buys = 0, had_cases = 0, had_customers = 0;  ///< had: those who had it before
    double had_expected = 0;
  };
  struct Sum {
    double first = 0, second = 0;  ///< of the expected items of a shelf, and of their squares
  };

  void follow(std::uint32_t earlier, std::uint32_t customer) {
    const auto history = model_.histories.of(customer);
    const std::uint32_t group = model_.groups.group_of(customer);
    std::fill(shelf_counts_.begin(), shelf_counts_.end(), 0);
    had_.clear();
    std::uint32_t read = 0, bands_before = 0;
    std::int32_t last = kNever;
    walk_cases(history, model_.lookback, model_.lookback.days, [&](const CustomerCase& now) {
      for (; read < now.known; ++read) {
        ++shelf_counts_[model_.shelves.of_product[history[read].code]];
        if (history[read].code == earlier)
          last = history[read].day;
        else if (history[read].is_first != 0)
          had_.push_back(history[read].code);
      }
      if (last == kNever) return;
      const std::size_t band = age_band(now.day - last);
      const bool is_new = (bands_before >> band & 1U) == 0;
      bands_before |= 1U << band;
      add_case(now, customer, group, band, is_new);
      Count* counts = &counts_[band * products_];
      bool again = false;
      for (std::uint32_t entry = now.known; entry < now.seen; ++entry) {
        again = again || history[entry].code == earlier;
        if (history[entry].is_first != 0) ++counts[history[entry].code].buys;
      }
      if (again) ++counts[earlier].buys;
    });
  }

  void add_case(const CustomerCase& now, std::uint32_t customer, std::uint32_t group, std::size_t band,
                bool is_new) {
    ++cases_[band];
    customers_[band] += is_new ? 1U : 0U;
    const double items = model_.items.at(customer, now.landmark);
    model_.shares.of_shelves(group, shelf_counts_, now.known, shelf_shares_);
    Sum* sums = &sums_[(group * kAgeBandCount + band) * model_.shelves.count];
    for (std::size_t shelf = 0; shelf < shelf_shares_.size(); ++shelf) {
      const double expected = items * shelf_shares_[shelf];
      sums[shelf].first += expected;
      sums[shelf].second += expected * expected;
    }
    for (const std::uint32_t had : had_) {
      Count& count = counts_[band * products_ + had];
      ++count.had_cases;
      count.had_customers += is_new ? 1U : 0U;
      count.had_expected += chance_of_any(
          items * shelf_shares_[model_.shelves.of_product[had]] * model_.shares.of_product(group, had),
          model_.items.dispersion());
    }
  }

  /// The chances of all cases of a band added up, those of a group and shelf as if they were alike.
  [[nodiscard]] double expected(std::size_t band, std::uint32_t later) const {
    double all = 0;
    for (std::uint32_t group = 0; group < model_.groups.count; ++group) {
      const Sum& sum =
          sums_[(group * kAgeBandCount + band) * model_.shelves.count + model_.shelves.of_product[later]];
      if (sum.first <= 0) continue;
      const double share = model_.shares.of_product(group, later), typical = sum.second / sum.first * share;
      all += sum.first * share / typical * chance_of_any(typical, model_.items.dispersion());
    }
    return std::max(all - counts_[band * products_ + later].had_expected, 1e-9);
  }

  void test(std::uint32_t earlier, std::uint32_t later, std::vector<FoundStep>& found) const {
    constexpr double kMayPass = 0.01;
    std::uint32_t buys = 0;
    for (std::size_t band = 0; band < kAgeBandCount; ++band) buys += counts_[band * products_ + later].buys;
    if (buys < kFewest * model_.lookback.overlap) return;
    FoundStep step{earlier, later, 1, {}};
    std::array<BandCount, kAgeBandCount> bands{};
    for (std::size_t band = 0; band < kAgeBandCount; ++band) {
      const Count& count = counts_[band * products_ + later];
      const Seen own{cases_[band] - count.had_cases, count.buys, customers_[band] - count.had_customers};
      if (own.cases == 0) continue;
      step.cells.push_back({static_cast<std::uint8_t>(band), own, expected(band, later), {}});
      bands[band] = {static_cast<double>(own.buys), static_cast<double>(own.cases),
                     step.cells.back().expected};
    }
    step.p = chance_of_stretches(bands, model_.lookback.overlap);
    if (step.p < kMayPass) found.push_back(std::move(step));
  }

  const OfferBase& model_;
  std::size_t products_;
  std::vector<Count> counts_;  ///< by band, then product
  std::vector<Sum> sums_;      ///< by group, band and shelf
  std::array<std::uint32_t, kAgeBandCount> cases_{}, customers_{};
  std::vector<std::uint32_t> shelf_counts_, had_;
  std::vector<double> shelf_shares_;
};

/// The q values of all pairs, in their order: of each kind for itself.
std::vector<double> tested_by_kind(const std::vector<std::vector<FoundStep>>& tested,
                                   const OfferLinks& links) {
  std::array<std::vector<double>, kLinkKinds> chances;
  std::vector<std::size_t> kinds;
  for (const auto& pairs : tested)
    for (const FoundStep& pair : pairs) {
      kinds.push_back(static_cast<std::size_t>(links.kind(pair.earlier, pair.later)));
      chances[kinds.back()].push_back(pair.p);
    }
  std::array<std::vector<double>, kLinkKinds> q;
  for (std::size_t kind = 0; kind < kLinkKinds; ++kind)
    q[kind] = q_values(chances[kind], links.pairs(static_cast<LinkKind>(kind)));
  std::array<std::size_t, kLinkKinds> next{};
  std::vector<double> all;
  for (const std::size_t kind : kinds) all.push_back(q[kind][next[kind]++]);
  return all;
}

}  // namespace

double surely_more(const FoundStep& step, double overlap) {
  double most = 0;
  BandCount sum;
  for (const FoundCell& cell : step.cells) {
    sum.buys += cell.seen.buys, sum.cases += cell.seen.cases, sum.expected += cell.expected;
    const auto cases = static_cast<std::uint64_t>(sum.cases / overlap);
    const auto buys = std::min(cases, static_cast<std::uint64_t>(sum.buys / overlap));
    if (cases > 0) most = std::max(most, wilson_interval(buys, cases).low - sum.expected / sum.cases);
  }
  return most;
}

double chance_of_stretches(std::span<const BandCount> bands, double overlap) {
  double surest = 1;
  BandCount sum;
  std::size_t stretch = 0;
  const auto end_stretch = [&] {
    ++stretch;
    const auto part = static_cast<std::uint64_t>(sum.buys / overlap),
               whole = static_cast<std::uint64_t>(sum.cases / overlap);
    if (sum.buys <= sum.expected || part < kFewest || part > whole) return;
    const double p = chance_of_at_least(part, whole, std::min(1.0, sum.expected / sum.cases));
    surest = std::min(surest, p * kStretches.size());
  };
  for (std::size_t band = 0; band < bands.size(); ++band) {
    if (kAgeBands[band] == kStretches[stretch]) end_stretch();
    sum.buys += bands[band].buys, sum.cases += bands[band].cases, sum.expected += bands[band].expected;
  }
  end_stretch();
  return surest;
}

std::vector<FoundStep> find_steps(const OfferBase& base, const ProductBuyers& buyers,
                                  const OfferLinks& links) {
  const std::size_t products = base.histories.counts.size();
  std::vector<std::vector<FoundStep>> tested(products);
  tbb::enumerable_thread_specific<StepCounter> counters([&] { return StepCounter(base); });
  for_each_product(products, [&](std::size_t earlier) {
    const auto code = static_cast<std::uint32_t>(earlier);
    tested[earlier] = counters.local().count(code, buyers.of(code));
  });
  const std::vector<double> q = tested_by_kind(tested, links);
  std::vector<FoundStep> found;
  std::size_t next = 0;
  for (auto& steps : tested)
    for (FoundStep& step : steps)
      if (q[next++] <= kFalseDiscovery && surely_more(step, base.lookback.overlap) >= kLeastMore)
        found.push_back(std::move(step));
  return found;
}

}  // namespace pear
