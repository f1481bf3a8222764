#include "recommender/plan.hpp"

#include <algorithm>
#include <numeric>
#include <optional>
#include <queue>
#include <utility>

#include <tbb/enumerable_thread_specific.h>
#include <tbb/parallel_for.h>

namespace pear::recommender {
namespace {

/// Runs of one customer's offers in a list of all.
std::vector<std::size_t> begins_of_customers(const std::vector<Offer>& offers) {
  std::vector<std::size_t> begins;
  for (std::size_t i = 0; i < offers.size(); ++i)
    if (i == 0 || offers[i].customer != offers[i - 1].customer) begins.push_back(i);
  begins.push_back(offers.size());
  return begins;
}

/// The offers to the customers with the largest expected uplift.
std::vector<Offer> within_budget(const std::vector<Offer>& offers, std::size_t budget) {
  const std::vector<std::size_t> begins = begins_of_customers(offers);
  struct Whole {
    double uplift = 0;
    std::size_t place = 0;
  };
  std::vector<Whole> wholes;
  for (std::size_t i = 0; i + 1 < begins.size(); ++i) {
    wholes.push_back({0, i});
    for (std::size_t offer = begins[i]; offer < begins[i + 1]; ++offer)
      wholes.back().uplift += offers[offer].uplift;
  }
  std::stable_sort(wholes.begin(), wholes.end(),
                   [](const Whole& a, const Whole& b) { return a.uplift > b.uplift; });
  wholes.resize(std::min(wholes.size(), budget));
  std::sort(wholes.begin(), wholes.end(), [](const Whole& a, const Whole& b) { return a.place < b.place; });
  std::vector<Offer> kept;
  for (const Whole& whole : wholes)
    kept.insert(kept.end(), offers.begin() + static_cast<std::ptrdiff_t>(begins[whole.place]),
                offers.begin() + static_cast<std::ptrdiff_t>(begins[whole.place + 1]));
  return kept;
}

/// Assigns the pieces in stock to the offers that cause most, of all customers.
class StockDealer {
 public:
  StockDealer(Scorer& scorer, const Constraints& constraints) : scorer_(scorer), constraints_(constraints) {}

  std::vector<Offer> deal(const std::vector<std::uint32_t>& customers) {
    std::vector<std::int64_t> left = *constraints_.stock;
    for (const std::uint32_t customer : customers) {
      waiting_.push_back({customer, 0, 0, constraints_.per_customer + kSpare, {}});
      fill(waiting_.back());
    }
    const auto is_worse = [&](std::size_t a, std::size_t b) {
      return has_more_uplift(waiting_[b].next(), waiting_[a].next());
    };
    std::priority_queue<std::size_t, std::vector<std::size_t>, decltype(is_worse)> queue(is_worse);
    for (std::size_t i = 0; i < waiting_.size(); ++i)
      if (!waiting_[i].offers.empty()) queue.push(i);
    std::vector<Offer> dealt;
    while (!queue.empty()) {
      const std::size_t i = queue.top();
      queue.pop();
      Waiting& waiting = waiting_[i];
      const Offer offer = waiting.next();
      ++waiting.tried;
      if (left[offer.product] > 0) {
        --left[offer.product];
        dealt.push_back(offer);
        if (++waiting.given == constraints_.per_customer) continue;
      }
      if (waiting.tried == waiting.offers.size()) fill(waiting);
      if (waiting.tried < waiting.offers.size()) queue.push(i);
    }
    std::sort(dealt.begin(), dealt.end(), [](const Offer& a, const Offer& b) {
      return a.customer != b.customer ? a.customer < b.customer : is_better(a, b);
    });
    for (std::size_t i = 0; i < dealt.size(); ++i)
      dealt[i].rank = i > 0 && dealt[i].customer == dealt[i - 1].customer ? dealt[i - 1].rank + 1 : 1;
    return dealt;
  }

 private:
  static constexpr std::size_t kSpare = 5;
  struct Waiting {
    std::uint32_t customer;
    std::size_t tried, given, most;
    std::vector<Offer> offers;
    [[nodiscard]] const Offer& next() const { return offers[tried]; }
  };

  /// More offers to a customer than have been tried, if there are more.
  void fill(Waiting& waiting) {
    if (!waiting.offers.empty()) {
      if (waiting.offers.size() < waiting.most) return;
      waiting.most *= 4;
    }
    waiting.offers.clear();
    scorer_.best(waiting.customer, waiting.most, waiting.offers, has_more_uplift);
  }

  Scorer& scorer_;
  const Constraints& constraints_;
  std::vector<Waiting> waiting_;
};

}  // namespace

std::vector<Offer> make_plan(const OfferModel& model, const mining::Histories& known,
                             const Constraints& constraints, const std::vector<std::uint8_t>& planned,
                             const analysis::Progress& progress) {
  constexpr std::uint32_t kCustomersPerBlock = 4096;
  const std::uint32_t customers = known.customers();
  std::vector<std::vector<Offer>> blocks((customers + kCustomersPerBlock - 1) / kCustomersPerBlock);
  std::optional<Baselines> baselines;
  if (constraints.method)
    baselines.emplace(known, model.purchases.groups, model.taste, constraints.allowed,
                      model.purchases.landmarks.as_of);
  tbb::enumerable_thread_specific<Scorer> scorers(
      [&] { return Scorer(model, known, constraints, baselines ? &*baselines : nullptr); });
  analysis::ParallelProgress parts(progress, blocks.size());
  tbb::parallel_for(std::size_t{0}, blocks.size(), [&](std::size_t block) {
    const auto begin = static_cast<std::uint32_t>(block) * kCustomersPerBlock;
    Scorer& scorer = scorers.local();
    for (std::uint32_t customer = begin; customer < std::min(customers, begin + kCustomersPerBlock);
         ++customer)
      if (planned[customer] != 0) scorer.best(customer, constraints.per_customer, blocks[block]);
    parts.advance();
  });
  std::vector<Offer> offers;
  std::size_t all = 0;
  for (const auto& block : blocks) all += block.size();
  offers.reserve(all);
  for (auto& block : blocks) {
    offers.insert(offers.end(), block.begin(), block.end());
    block = {};
  }
  if (constraints.budget) offers = within_budget(offers, *constraints.budget);
  if (!constraints.stock) return offers;
  std::vector<std::uint32_t> wanted;
  for (const std::size_t begin : begins_of_customers(offers))
    if (begin < offers.size()) wanted.push_back(offers[begin].customer);
  return StockDealer(scorers.local(), constraints).deal(wanted);
}

}  // namespace pear::recommender
