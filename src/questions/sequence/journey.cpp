#include "questions/sequence/journey.hpp"

#include <algorithm>
#include <tuple>

#include <fmt/format.h>
#include <tbb/enumerable_thread_specific.h>

#include "base/text.hpp"
#include "daybook/walk_lines.hpp"
#include "mining/baskets.hpp"

namespace pear::sequence {
namespace {

/// The journeys of customers, on one thread.
class Traveller {
 public:
  Traveller(const Journey& journey, const mining::BasketWalker& walker)
      : walker_(walker),
        only_new_(journey.options.repeats == mining::Repeats::first),
        longest_(static_cast<std::uint32_t>(journey.options.longest)),
        bought_by_(journey.key.distinct, kNoStep) {}

  void travel(std::uint32_t customer) {
    std::uint32_t step = 0, last = kNoStep;
    std::int32_t last_day = 0;
    walker_.walk(customer, items_, [&](std::span<const mining::BasketItem> items, Date day) {
      const std::uint32_t to = main_item(customer, items);
      if (to == kNoStep || step == longest_) return;
      ++step;
      add({step, last, to}, step == 1 ? 0 : day.days - last_day);
      last = to;
      last_day = day.days;
    });
    if (step == 0) return;
    ++customers_;
    if (step < longest_) add({step + 1, last, kNoStep}, 0);
  }

  void add_to(Journey& journey) const {
    for (const auto& [key, flow] : flows_) {
      FlowSum& sum = journey.flows[key];
      sum.customers += flow.customers;
      sum.days.insert(sum.days.end(), flow.days.begin(), flow.days.end());
    }
    journey.customers += customers_;
    journey.steps += steps_;
    journey.mixed += mixed_;
  }

 private:
  void add(const FlowKey& key, std::int32_t days) {
    FlowSum& flow = flows_[key];
    ++flow.customers;
    if (key.step > 1 && key.to != kNoStep) flow.days.push_back(days);
  }

  /// Of the items that count, the one with the largest amount, or the first of several.
  std::uint32_t main_item(std::uint32_t customer, std::span<const mining::BasketItem> items) {
    const mining::BasketItem* main = nullptr;
    std::uint32_t counted_items = 0;
    for (const mining::BasketItem& item : items) {
      const bool is_new = std::exchange(bought_by_[item.code], customer) != customer;
      if (only_new_ && !is_new) continue;
      ++counted_items;
      if (main == nullptr || item.amount > main->amount) main = &item;
    }
    if (main == nullptr) return kNoStep;
    ++steps_;
    mixed_ += counted_items > 1 ? 1 : 0;
    return main->code;
  }

  const mining::BasketWalker& walker_;
  bool only_new_;
  std::uint32_t longest_;
  std::vector<std::uint32_t> bought_by_;  ///< by code the last customer who bought it
  std::vector<mining::BasketItem> items_;
  Flows flows_;
  std::uint64_t customers_ = 0, steps_ = 0, mixed_ = 0;
};

void travel_all(Journey& journey) {
  const mining::BasketWalker walker(journey.input.daybook, journey.key, {mining::BasketRule::Within::day, 0});
  tbb::enumerable_thread_specific<Traveller> travellers([&] { return Traveller(journey, walker); });
  daybook::for_each_customer_run(journey.input.daybook, [&](daybook::CustomerRun run) {
    for (std::uint32_t customer = run.begin; customer < run.end; ++customer)
      travellers.local().travel(customer);
  });
  for (const Traveller& each : travellers) each.add_to(journey);
}

}  // namespace

std::vector<const Flow*> flows_in_order(const Journey& journey) {
  std::vector<const Flow*> order;
  for (const Flow& flow : journey.flows) order.push_back(&flow);
  std::stable_sort(order.begin(), order.end(), [](const Flow* a, const Flow* b) {
    const auto place = [](const Flow* flow) {
      return std::pair(flow->first.step, flow->first.to == kNoStep);
    };
    return place(a) != place(b) ? place(a) < place(b) : a->second.customers > b->second.customers;
  });
  return order;
}

std::map<std::pair<std::uint32_t, std::uint32_t>, std::uint64_t> arrivals(const Journey& journey) {
  std::map<std::pair<std::uint32_t, std::uint32_t>, std::uint64_t> count;
  for (const auto& [key, flow] : journey.flows) count[{key.step, key.to}] += flow.customers;
  return count;
}

OrError<Journey> travel(const analysis::QuestionInput& input, const Options& options) {
  const expression::LineView lines(input.daybook, input.grains);
  PEAR_ASSIGN(auto key, mining::basket_key(options.journey, lines));
  Journey journey{input, options, std::move(key.first), std::move(key.second), {}, 0, 0, 0};
  travel_all(journey);
  if (journey.customers == 0)
    return data_error(fmt::format("none of the {} bought anything with a {}.",
                                  counted(input.population.customers, "customer"), journey.item));
  return journey;
}

}  // namespace pear::sequence
