#include "questions/sequence/journey.hpp"

#include <algorithm>
#include <limits>
#include <map>
#include <numeric>
#include <tuple>
#include <utility>

#include <fmt/format.h>
#include <tbb/enumerable_thread_specific.h>

#include "analysis/item_labels.hpp"
#include "analysis/member_column.hpp"
#include "analysis/wording.hpp"
#include "base/text.hpp"
#include "daybook/walk_lines.hpp"
#include "mining/baskets.hpp"
#include "statistics/quantile.hpp"

namespace pear::sequence {
namespace {

constexpr std::uint32_t kNothing = 0xFFFFFFFF;  ///< before the first step, or after the last

/// Customers who went from one item to another at one step.
struct Flow {
  std::uint32_t step = 0;  ///< from 1: the step that it leads to
  std::uint32_t from = kNothing, to = kNothing;
  std::uint64_t customers = 0;
  std::vector<std::int32_t> days;  ///< since the step before
};

using FlowKey = std::tuple<std::uint32_t, std::uint32_t, std::uint32_t>;  ///< step, from, to
using Flows = std::map<FlowKey, Flow>;

/// What customers did, step by step.
struct Journey {
  const analysis::QuestionInput& asked;
  const Options& options;
  expression::GroupKey key;
  std::string item;  ///< "category"
  Flows flows;
  std::uint64_t customers = 0;         ///< who bought anything
  std::uint64_t steps = 0, mixed = 0;  ///< steps seen, and those with several items that count

  [[nodiscard]] analysis::ItemLabels names() const { return {asked.daybook, key, item}; }
  [[nodiscard]] std::string told(std::uint32_t code) const {
    return code == kNothing ? "" : names().title(code);
  }
};

/// The journeys of customers, on one thread.
class Traveller {
 public:
  Traveller(const Journey& journey, const mining::BasketWalker& walker)
      : walker_(walker),
        only_new_(journey.options.repeats == mining::Repeats::first),
        longest_(static_cast<std::uint32_t>(journey.options.longest)),
        bought_by_(journey.key.distinct, kNothing) {}

  void travel(std::uint32_t customer) {
    std::uint32_t step = 0, last = kNothing;
    std::int32_t last_day = 0;
    walker_.walk(customer, items_, [&](std::span<const mining::BasketItem> items, Date day) {
      const std::uint32_t to = main_item(customer, items);
      if (to == kNothing || step == longest_) return;
      ++step;
      add({step, last, to}, step == 1 ? 0 : day.days - last_day);
      last = to;
      last_day = day.days;
    });
    if (step == 0) return;
    ++customers_;
    if (step < longest_) add({step + 1, last, kNothing}, 0);
  }

  void add_to(Journey& journey) const {
    for (const auto& [key, flow] : flows_) {
      Flow& sum = journey.flows[key];
      std::tie(sum.step, sum.from, sum.to) = key;
      sum.customers += flow.customers;
      sum.days.insert(sum.days.end(), flow.days.begin(), flow.days.end());
    }
    journey.customers += customers_;
    journey.steps += steps_;
    journey.mixed += mixed_;
  }

 private:
  void add(const FlowKey& key, std::int32_t days) {
    Flow& flow = flows_[key];
    ++flow.customers;
    if (std::get<0>(key) > 1 && std::get<2>(key) != kNothing) flow.days.push_back(days);
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
    if (main == nullptr) return kNothing;
    ++steps_;
    mixed_ += counted_items > 1 ? 1 : 0;
    return main->code;
  }

  const mining::BasketWalker& walker_;
  bool only_new_;
  std::uint32_t longest_;
  std::vector<std::uint32_t> bought_by_;  ///< by code the last customer who did
  std::vector<mining::BasketItem> items_;
  Flows flows_;
  std::uint64_t customers_ = 0, steps_ = 0, mixed_ = 0;
};

void travel_all(Journey& journey) {
  const mining::BasketWalker walker(journey.asked.daybook, journey.key, {mining::BasketRule::Within::day, 0});
  tbb::enumerable_thread_specific<Traveller> travellers([&] { return Traveller(journey, walker); });
  daybook::walk_lines_in_parallel(journey.asked.daybook, [&](daybook::CustomerRun run) {
    for (std::uint32_t customer = run.begin; customer < run.end; ++customer)
      travellers.local().travel(customer);
  });
  for (const Traveller& each : travellers) each.add_to(journey);
}

/// Flows of a step from the commonest, those who stop last.
std::vector<const Flow*> in_order(const Journey& journey) {
  std::vector<const Flow*> order;
  for (const auto& [key, flow] : journey.flows) order.push_back(&flow);
  std::stable_sort(order.begin(), order.end(), [](const Flow* a, const Flow* b) {
    const auto key = [](const Flow* f) { return std::tuple(f->step, f->to == kNothing, ~f->customers); };
    return key(a) < key(b);
  });
  return order;
}

/// How many customers came to an item at a step.
std::map<std::pair<std::uint32_t, std::uint32_t>, std::uint64_t> arrivals(const Journey& journey) {
  std::map<std::pair<std::uint32_t, std::uint32_t>, std::uint64_t> count;
  for (const auto& [key, flow] : journey.flows) count[{flow.step, flow.to}] += flow.customers;
  return count;
}

std::int64_t whole(std::uint64_t value) { return static_cast<std::int64_t>(value); }

double part_of(std::uint64_t part, std::uint64_t all) {
  return static_cast<double>(part) / static_cast<double>(all);
}

result::Table flows_table(const Journey& journey) {
  result::Table table{
      "journey",
      "From step to step",
      fmt::format("One row for each {} and the one that customers went on to; an empty one behind stands "
                  "for those who stopped.",
                  journey.item),
      {}};
  const auto came = arrivals(journey);
  std::vector<std::int64_t> steps, customers, days;
  std::vector<std::uint32_t> from, to;
  std::vector<double> of_from, of_all;
  const std::uint32_t gap = journey.key.distinct;
  for (const Flow* flow : in_order(journey)) {
    steps.push_back(flow->step);
    from.push_back(flow->from == kNothing ? gap : flow->from);
    to.push_back(flow->to == kNothing ? gap : flow->to);
    customers.push_back(whole(flow->customers));
    of_from.push_back(part_of(flow->customers,
                              flow->step == 1 ? journey.customers : came.at({flow->step - 1, flow->from})));
    of_all.push_back(part_of(flow->customers, journey.customers));
    std::vector<std::int32_t> all_days = flow->days;
    days.push_back(statistics::quantile_of(all_days, statistics::kHalf).value_or(0));
    if (flow->days.empty()) days.back() = result::kEmptyCell;
  }
  const auto texts = [&](const std::vector<std::uint32_t>& codes) {
    TextArray labels;
    for (const std::uint32_t code : codes)
      labels.push_back(code == gap ? "" : expression::label_text(journey.key, code));
    return labels;
  };
  table.columns = {
      result::integer_column("step", result::Unit::count,
                             "The step that the customers went on to, or would have.", std::move(steps)),
      result::text_column("from", fmt::format("The {} of the step before; empty at the first.", journey.item),
                          texts(from)),
      result::text_column(
          "to", fmt::format("The {} of this step; empty for those who stopped.", journey.item), texts(to)),
      result::integer_column("customers", result::Unit::count, "Customers.", std::move(customers)),
      result::share_column("share_of_from",
                           "These as a share of the customers of the step before with that value.",
                           std::move(of_from)),
      result::share_column("share_of_all", "These as a share of all customers.", std::move(of_all)),
      result::integer_column("days_median", result::Unit::days, "Days since the step before; median.",
                             std::move(days))};
  return table;
}

/// A row for each step and item: how many came, and how many of these went no further.
result::Table steps_table(const Journey& journey) {
  result::Table table{
      "journey-steps", "Step by step", fmt::format("One row for each step and {}.", journey.item), {}};
  std::vector<std::int64_t> steps, customers, stopped;
  std::vector<std::uint32_t> codes;
  std::vector<double> of_step, of_all, stopped_shares;
  std::map<std::uint32_t, std::uint64_t> at_step;
  std::vector<std::tuple<std::uint32_t, std::uint64_t, std::uint32_t>> rows;
  for (const auto& [place, count] : arrivals(journey)) {
    if (place.second == kNothing) continue;
    at_step[place.first] += count;
    rows.emplace_back(place.first, ~count, place.second);
  }
  std::sort(rows.begin(), rows.end());
  for (const auto& [step, inverted, code] : rows) {
    const std::uint64_t count = ~inverted;
    const auto stop = journey.flows.find({step + 1, code, kNothing});
    const bool is_last = step == static_cast<std::uint32_t>(journey.options.longest);
    const std::uint64_t stops = stop == journey.flows.end() ? 0 : stop->second.customers;
    steps.push_back(step);
    codes.push_back(code);
    customers.push_back(whole(count));
    of_step.push_back(part_of(count, at_step[step]));
    of_all.push_back(part_of(count, journey.customers));
    stopped.push_back(is_last ? result::kEmptyCell : whole(stops));
    stopped_shares.push_back(is_last ? std::numeric_limits<double>::quiet_NaN() : part_of(stops, count));
  }
  table.columns.push_back(
      result::integer_column("step", result::Unit::count, "First, second, third ...", std::move(steps)));
  table.columns.push_back(analysis::key_column(journey.names().column(), fmt::format("The {}.", journey.item),
                                               journey.key, std::move(codes)));
  auto& columns = table.columns;
  columns.push_back(result::integer_column("customers", result::Unit::count, "Customers whose step it is.",
                                           std::move(customers)));
  columns.push_back(result::share_column("share_of_step", "These as a share of all who came to this step.",
                                         std::move(of_step)));
  columns.push_back(
      result::share_column("share_of_all", "These as a share of all customers.", std::move(of_all)));
  columns.push_back(result::integer_column("stopped", result::Unit::count,
                                           "Of these, those who took no further step; not told of the last.",
                                           std::move(stopped)));
  columns.push_back(result::share_column("stopped_share", "These as a share of the customers here.",
                                         std::move(stopped_shares)));
  return table;
}

std::vector<std::string> headline(const Journey& journey) {
  const std::vector<const Flow*> flows = in_order(journey);
  const Flow& first = *flows.front();
  std::vector<std::string> told = {fmt::format("{} of {} customers begin with {} ({}).",
                                               analysis::number(first.customers),
                                               analysis::number(journey.customers), journey.told(first.to),
                                               analysis::per_cent(first.customers, journey.customers))};
  std::uint64_t second = 0;
  const Flow* commonest = nullptr;
  for (const Flow* flow : flows) {
    if (flow->step != 2 || flow->to == kNothing) continue;
    second += flow->customers;
    if (commonest == nullptr) commonest = flow;
  }
  if (commonest == nullptr) {
    told.push_back("Nobody goes on to a second step.");
    return told;
  }
  const auto from = arrivals(journey).at({1, commonest->from});
  told.push_back(fmt::format("{} go on to a second step; the commonest way is from {} to {}: {} of {} ({}).",
                             analysis::per_cent(second, journey.customers), journey.told(commonest->from),
                             journey.told(commonest->to), analysis::number(commonest->customers),
                             analysis::number(from), analysis::per_cent(commonest->customers, from)));
  return told;
}

/// The most frequent items keep their names; what is left is other.
result::Figure flow_figure(const Journey& journey) {
  constexpr std::size_t kMostNamed = 8;
  std::vector<std::uint64_t> totals(journey.key.distinct);
  for (const auto& [place, count] : arrivals(journey))
    if (place.second != kNothing) totals[place.second] += count;
  std::vector<std::uint32_t> order(totals.size());
  std::iota(order.begin(), order.end(), 0U);
  std::stable_sort(order.begin(), order.end(),
                   [&](std::uint32_t a, std::uint32_t b) { return totals[a] > totals[b]; });
  std::map<std::uint32_t, std::size_t> places;  // those that keep their names
  const auto bought = static_cast<std::size_t>(
      std::count_if(totals.begin(), totals.end(), [](std::uint64_t total) { return total > 0; }));
  const std::size_t named = bought > kMostNamed ? kMostNamed - 1 : bought;
  for (std::size_t i = 0; i < named; ++i) places[order[i]] = i;
  const std::size_t other = kMostNamed, stop = kMostNamed + 1;
  std::map<std::tuple<std::uint32_t, std::size_t, std::size_t>, std::uint64_t> sums;
  const auto place_of = [&](std::uint32_t code) {
    const auto found = places.find(code);
    return code == kNothing ? stop : found == places.end() ? other : found->second;
  };
  for (const auto& [key, flow] : journey.flows)
    sums[{flow.step, flow.step == 1 ? 0 : place_of(flow.from), place_of(flow.to)}] += flow.customers;
  const auto told = [&](std::size_t place) {
    return place == stop ? "no further" : place == other ? "other" : journey.told(order[place]);
  };
  TextArray from, to;
  std::vector<std::int64_t> customers, steps;
  for (const auto& [key, count] : sums) {
    const auto& [step, place_from, place_to] = key;
    from.push_back(step == 1 ? "" : told(place_from));
    to.push_back(told(place_to));
    customers.push_back(whole(count));
    steps.push_back(step);
  }
  result::Figure figure;
  figure.kind = result::Figure::Kind::flow;
  figure.part = "journey";
  figure.marks.columns = {
      result::text_column("from", "The step before.", std::move(from)),
      result::integer_column("customers", result::Unit::count, "Customers.", std::move(customers)),
      result::text_column("to", "This step.", std::move(to)),
      result::integer_column("step", result::Unit::count, "The step.", std::move(steps))};
  figure.along = 2;
  figure.step = 3;
  figure.title = headline(journey).back();
  figure.subtitle = fmt::format("Customers by their first, second, third ... {}{}, as shares of all {}",
                                journey.options.repeats == mining::Repeats::first ? "new " : "", journey.item,
                                counted(journey.customers, "customer"));
  return figure;
}

void add_checks(const Journey& journey, result::Result& result) {
  std::map<std::uint32_t, std::uint64_t> arrived, left;
  for (const auto& [key, flow] : journey.flows) {
    if (flow.to != kNothing) arrived[flow.step] += flow.customers;
    if (flow.step > 1) left[flow.step - 1] += flow.customers;
  }
  bool adds_up = arrived[1] == journey.customers;
  for (std::uint32_t step = 1; step < static_cast<std::uint32_t>(journey.options.longest); ++step)
    adds_up = adds_up && arrived[step] == left[step];
  result.checks.push_back(
      {fmt::format("all {} are at the first step, and who comes to a step goes on or stops",
                   counted(journey.customers, "customer")),
       adds_up});
}

}  // namespace

OrError<result::Result> ask_journey(const analysis::QuestionInput& asked, const Options& options) {
  const expression::LineView lines(asked.daybook, asked.grains);
  Journey journey{asked, options, {}, "product", {}, 0, 0, 0};
  PEAR_ASSIGN(std::tie(journey.key, journey.item), mining::basket_key(options.journey, lines));
  travel_all(journey);
  if (journey.customers == 0)
    return data_error(fmt::format("none of the {} bought anything with a {}.",
                                  counted(asked.population.customers, "customer"), journey.item));
  const bool only_new = options.repeats == mining::Repeats::first;
  result::Result result;
  result.question = "sequence";
  result.population = asked.population;
  result.definitions = {
      {"step",
       fmt::format("a day on which a customer bought {}; named by what brought the largest amount of it",
                   only_new ? fmt::format("a {} for the first time", journey.item) : "anything")},
      {"stopped", fmt::format("no further step up to {}", to_text(asked.data_end))}};
  result.headline = headline(journey);
  result.tables = {flows_table(journey), steps_table(journey)};
  result.figures = {flow_figure(journey)};
  add_checks(journey, result);
  result.notes.push_back(fmt::format(
      "At {} of {} steps more than one {} counted; the one with the largest amount stands for them.",
      analysis::number(journey.mixed), analysis::number(journey.steps), journey.item));
  return result;
}

}  // namespace pear::sequence
