#include "recommender/plan.hpp"

#include <algorithm>
#include <mutex>
#include <numeric>
#include <queue>
#include <utility>

#include <tbb/enumerable_thread_specific.h>
#include <tbb/parallel_for.h>

namespace pear::recommender {
namespace {

bool is_better(const Offer& a, const Offer& b) {
  if (a.expected != b.expected) return a.expected > b.expected;
  return std::pair(a.customer, a.product) < std::pair(b.customer, b.product);
}

/// Runs of one customer's offers in a list of all.
std::vector<std::size_t> begins_of_customers(const std::vector<Offer>& offers) {
  std::vector<std::size_t> begins;
  for (std::size_t i = 0; i < offers.size(); ++i)
    if (i == 0 || offers[i].customer != offers[i - 1].customer) begins.push_back(i);
  begins.push_back(offers.size());
  return begins;
}

/// The offers of the customers of whom most is expected.
std::vector<Offer> within_budget(const std::vector<Offer>& offers, std::size_t budget) {
  const std::vector<std::size_t> begins = begins_of_customers(offers);
  struct Whole {
    double expected = 0;
    std::size_t place = 0;
  };
  std::vector<Whole> wholes;
  for (std::size_t i = 0; i + 1 < begins.size(); ++i) {
    wholes.push_back({0, i});
    for (std::size_t offer = begins[i]; offer < begins[i + 1]; ++offer)
      wholes.back().expected += offers[offer].expected;
  }
  std::stable_sort(wholes.begin(), wholes.end(),
                   [](const Whole& a, const Whole& b) { return a.expected > b.expected; });
  wholes.resize(std::min(wholes.size(), budget));
  std::sort(wholes.begin(), wholes.end(), [](const Whole& a, const Whole& b) { return a.place < b.place; });
  std::vector<Offer> kept;
  for (const Whole& whole : wholes)
    kept.insert(kept.end(), offers.begin() + static_cast<std::ptrdiff_t>(begins[whole.place]),
                offers.begin() + static_cast<std::ptrdiff_t>(begins[whole.place + 1]));
  return kept;
}

/// Deals out the pieces in stock to the best offers of all customers.
class StockDealer {
 public:
  StockDealer(Scorer& scorer, const Constraints& bounds) : scorer_(scorer), bounds_(bounds) {}

  std::vector<Offer> deal(const std::vector<std::uint32_t>& customers) {
    std::vector<std::int64_t> left = *bounds_.stock;
    for (const std::uint32_t customer : customers) {
      waiting_.push_back({customer, 0, 0, bounds_.per_customer + kSpare, {}});
      fill(waiting_.back());
    }
    const auto is_worse = [&](std::size_t a, std::size_t b) {
      return is_better(waiting_[b].next(), waiting_[a].next());
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
        if (++waiting.given == bounds_.per_customer) continue;
      }
      if (waiting.tried == waiting.offers.size()) fill(waiting);
      if (waiting.tried < waiting.offers.size()) queue.push(i);
    }
    std::stable_sort(dealt.begin(), dealt.end(),
                     [](const Offer& a, const Offer& b) { return a.customer < b.customer; });
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

  /// More offers of a customer than have been tried, where there are more.
  void fill(Waiting& waiting) {
    if (!waiting.offers.empty()) {
      if (waiting.offers.size() < waiting.most) return;
      waiting.most *= 4;
    }
    waiting.offers.clear();
    scorer_.best(waiting.customer, waiting.most, waiting.offers);
  }

  Scorer& scorer_;
  const Constraints& bounds_;
  std::vector<Waiting> waiting_;
};

}  // namespace

Scorer::Scorer(const PurchaseModel& model, const mining::Histories& known, const Constraints& bounds)
    : model_(model),
      known_(known),
      bounds_(bounds),
      last_days_(known.counts.size(), kNever),
      steps_(known.counts.size()),
      shelf_counts_(model.shelves.count),
      shelf_shares_(model.shelves.count) {}

const std::vector<Offer>& Scorer::score(std::uint32_t customer) {
  offers_.clear();
  const auto history = known_.of(customer);
  const std::array<std::int32_t, 1> days = {model_.lookback.as_of.days};
  for_each_landmark(history, model_.lookback, days, [&](const CustomerState& now) {
    const std::uint32_t group = model_.groups.group_of(customer);
    expected_items_ = model_.items.coming(now, group);
    gather(group, history);
    find_steps(group, now.last_day);
    for (std::uint32_t product = 0; product < steps_.size(); ++product) {
      const bool is_bought = last_days_[product] != kNever;
      if (bounds_.allowed[product] == 0 || (is_bought && steps_[product].excess == 0)) continue;
      add(now, customer, group, product);
      if (is_bought && !offers_.back().is_by_step()) offers_.pop_back();  // not due
    }
    for (const std::uint32_t product : bought_) last_days_[product] = kNever;
  });
  return offers_;
}

void Scorer::gather(std::uint32_t group, std::span<const mining::HistoryEntry> history) {
  std::fill(shelf_counts_.begin(), shelf_counts_.end(), 0);
  bought_.clear();
  for (const mining::HistoryEntry& entry : history) {
    ++shelf_counts_[model_.shelves.of_product[entry.code]];
    if (std::exchange(last_days_[entry.code], entry.day) == kNever) bought_.push_back(entry.code);
  }
  model_.shares.of_shelves(group, shelf_counts_, static_cast<std::uint32_t>(history.size()), shelf_shares_);
  std::sort(bought_.begin(), bought_.end());
}

/// What all that was bought leads to.
void Scorer::find_steps(std::uint32_t group, std::int32_t last_day) {
  std::fill(steps_.begin(), steps_.end(), Step{});
  for (const std::uint32_t earlier : bought_) {
    const std::int32_t days_ago = model_.lookback.as_of.days - last_days_[earlier];
    const std::size_t standing = standing_of(days_ago, last_day > last_days_[earlier]);
    for (const StepCell& cell : model_.evidence.after(earlier, standing)) {
      if (last_days_[cell.later] != kNever && cell.later != earlier) continue;
      Step& step = steps_[cell.later];
      const double excess = model_.evidence.excess(cell, group);
      step.none *= 1 - excess;
      if (excess > step.excess) step = {step.none, excess, model_.evidence.place_of(cell), earlier, days_ago};
    }
  }
}

void Scorer::add(const CustomerState& now, std::uint32_t customer, std::uint32_t group,
                 std::uint32_t product) {
  const Step& step = steps_[product];
  Offer offer;
  offer.customer = customer, offer.product = product;
  offer.step = step.cell, offer.because_of = step.because_of, offer.days_ago = step.days_ago;
  offer.orders = now.orders, offer.last_ago = now.day - now.last_day;
  offer.anyway = probability_of_any(expected_items_ * shelf_shares_[model_.shelves.of_product[product]] *
                                        model_.shares.of_product(group, product),
                                    model_.items.dispersion());
  offer.chance = 1 - (1 - offer.anyway) * step.none;
  const double brings = bounds_.rank_by == RankBy::chance   ? 1
                        : bounds_.rank_by == RankBy::amount ? model_.worth.amount(group, product)
                                                            : model_.worth.margin(group, product);
  offer.expected = offer.chance * brings;
  offers_.push_back(offer);
}

void Scorer::best(std::uint32_t customer, std::size_t most, std::vector<Offer>& into) {
  score(customer);
  const auto end = std::remove_if(offers_.begin(), offers_.end(), [&](const Offer& offer) {
    return offer.expected <= 0 || offer.chance < bounds_.least_chance;
  });
  const auto last = std::min(
      end, offers_.begin() +
               static_cast<std::ptrdiff_t>(std::min(most, static_cast<std::size_t>(end - offers_.begin()))));
  std::partial_sort(offers_.begin(), last, end, is_better);
  into.insert(into.end(), offers_.begin(), last);
}

std::vector<Offer> make_plan(const PurchaseModel& model, const mining::Histories& known,
                             const Constraints& bounds, const std::vector<std::uint8_t>& planned,
                             const analysis::Progress& progress) {
  constexpr std::uint32_t kCustomersPerBlock = 4096;
  const std::uint32_t customers = known.customers();
  std::vector<std::vector<Offer>> blocks((customers + kCustomersPerBlock - 1) / kCustomersPerBlock);
  tbb::enumerable_thread_specific<Scorer> scorers([&] { return Scorer(model, known, bounds); });
  std::mutex telling;
  std::uint64_t done = 0;
  tbb::parallel_for(std::size_t{0}, blocks.size(), [&](std::size_t block) {
    const auto begin = static_cast<std::uint32_t>(block) * kCustomersPerBlock;
    Scorer& scorer = scorers.local();
    for (std::uint32_t customer = begin; customer < std::min(customers, begin + kCustomersPerBlock);
         ++customer)
      if (planned[customer] != 0) scorer.best(customer, bounds.per_customer, blocks[block]);
    if (!progress) return;
    const std::lock_guard lock(telling);
    progress(++done, blocks.size());
  });
  std::vector<Offer> offers;
  std::size_t all = 0;
  for (const auto& block : blocks) all += block.size();
  offers.reserve(all);
  for (auto& block : blocks) {
    offers.insert(offers.end(), block.begin(), block.end());
    block = {};
  }
  if (bounds.budget) offers = within_budget(offers, *bounds.budget);
  if (!bounds.stock) return offers;
  std::vector<std::uint32_t> wanted;
  for (const std::size_t begin : begins_of_customers(offers))
    if (begin < offers.size()) wanted.push_back(offers[begin].customer);
  return StockDealer(scorers.local(), bounds).deal(wanted);
}

}  // namespace pear::recommender
