#include "questions/sequence/journey_question.hpp"

#include <algorithm>
#include <map>
#include <numeric>
#include <utility>

#include <fmt/format.h>

#include "analysis/tables/table_builder.hpp"
#include "analysis/wording.hpp"
#include "base/text.hpp"
#include "questions/sequence/journey.hpp"
#include "questions/sequence/journey_tables.hpp"

namespace pear::sequence {
namespace {

std::vector<std::string> headline_of(const Journey& journey) {
  const std::vector<const Flow*> flows = flows_in_order(journey);
  const Flow& first = *flows.front();
  std::vector<std::string> sentences = {
      fmt::format("{} of {} customers begin with {} ({}).", analysis::number(first.second.customers),
                  analysis::number(journey.customers), journey.title(first.first.to),
                  analysis::per_cent(first.second.customers, journey.customers))};
  std::uint64_t second = 0;
  const Flow* commonest = nullptr;
  for (const Flow* flow : flows) {
    if (flow->first.step != 2 || flow->first.to == kNoStep) continue;
    second += flow->second.customers;
    if (commonest == nullptr) commonest = flow;
  }
  if (commonest == nullptr) {
    sentences.push_back("No customer reaches a second step.");
    return sentences;
  }
  const auto from = arrivals(journey).at({1, commonest->first.from});
  sentences.push_back(fmt::format(
      "{} of customers reach a second step; the most frequent move is from {} to {}: {} of {} ({}).",
      analysis::per_cent(second, journey.customers), journey.title(commonest->first.from),
      journey.title(commonest->first.to), analysis::number(commonest->second.customers),
      analysis::number(from), analysis::per_cent(commonest->second.customers, from)));
  return sentences;
}

/// The names of items in the flow figure: the most frequent keep their names; the rest is "other".
class FlowNames {
 public:
  explicit FlowNames(const Journey& journey) : journey_(journey), order_(journey.key.distinct) {
    constexpr std::size_t kMostNamed = 8;
    std::vector<std::uint64_t> totals(journey.key.distinct);
    for (const auto& [place, count] : arrivals(journey))
      if (place.second != kNoStep) totals[place.second] += count;
    std::iota(order_.begin(), order_.end(), 0U);
    std::stable_sort(order_.begin(), order_.end(),
                     [&](std::uint32_t a, std::uint32_t b) { return totals[a] > totals[b]; });
    const auto bought = static_cast<std::size_t>(
        std::count_if(totals.begin(), totals.end(), [](std::uint64_t total) { return total > 0; }));
    named_ = bought > kMostNamed ? kMostNamed - 1 : bought;
  }

  /// The place of an item: by frequency, then other, then no further step.
  [[nodiscard]] std::size_t place_of(std::uint32_t code) const {
    if (code == kNoStep) return order_.size() + 1;
    const auto found = std::find(order_.begin(), order_.begin() + static_cast<std::ptrdiff_t>(named_), code);
    const auto place = static_cast<std::size_t>(found - order_.begin());
    return place < named_ ? place : order_.size();
  }
  [[nodiscard]] std::string name(std::size_t place) const {
    if (place > order_.size()) return "no further";
    return place == order_.size() ? "other" : journey_.title(order_[place]);
  }

 private:
  const Journey& journey_;
  std::vector<std::uint32_t> order_;  ///< items by frequency
  std::size_t named_ = 0;
};

result::Figure flow_figure(const Journey& journey) {
  struct Place {
    std::uint32_t step = 0;
    std::size_t from = 0, to = 0;
    auto operator<=>(const Place&) const = default;
  };
  using Row = std::pair<Place, std::uint64_t>;
  const FlowNames names(journey);
  std::map<Place, std::uint64_t> sums;
  for (const auto& [key, flow] : journey.flows)
    sums[{key.step, key.step == 1 ? 0 : names.place_of(key.from), names.place_of(key.to)}] += flow.customers;
  const std::vector<Row> rows(sums.begin(), sums.end());
  result::Figure figure;
  figure.part = "journey";
  figure.title = headline_of(journey).back();
  figure.subtitle = fmt::format("Customers by their first, second, third ... {}{}, as shares of all {}",
                                journey.options.repeats == mining::Repeats::first ? "new " : "", journey.item,
                                counted(journey.customers, "customer"));
  analysis::TableBuilder builder(figure.marks, rows);
  builder.text("from", "The step before.",
               [&](const Row& row) { return row.first.step == 1 ? "" : names.name(row.first.from); });
  builder.count("customers", "Customers.", [](const Row& row) { return row.second; });
  builder.text("to", "This step.", [&](const Row& row) { return names.name(row.first.to); });
  builder.count("step", "The step.", [](const Row& row) { return row.first.step; });
  figure.chart = result::FlowChart{"from", "to", "customers", "step"};
  return figure;
}

void add_checks(const Journey& journey, result::Result& result) {
  std::map<std::uint32_t, std::uint64_t> arrived, left;
  for (const auto& [key, flow] : journey.flows) {
    if (key.to != kNoStep) arrived[key.step] += flow.customers;
    if (key.step > 1) left[key.step - 1] += flow.customers;
  }
  bool adds_up = arrived[1] == journey.customers;
  for (std::uint32_t step = 1; step < static_cast<std::uint32_t>(journey.options.longest); ++step)
    adds_up = adds_up && arrived[step] == left[step];
  result.checks.push_back(
      {fmt::format("all {} are at the first step, and each who reaches a step moves on or has it as the last",
                   counted(journey.customers, "customer")),
       adds_up});
}

}  // namespace

OrError<result::Result> ask_journey(const analysis::QuestionInput& input, const Options& options) {
  PEAR_ASSIGN(const Journey journey, travel(input, options));
  const bool only_new = options.repeats == mining::Repeats::first;
  result::Result result;
  result.question = "sequence";
  result.population = input.population;
  result.definitions = {
      {"step",
       fmt::format("a day on which a customer bought {}; named after the item with the largest amount",
                   only_new ? fmt::format("a {} for the first time", journey.item) : "anything")},
      {"last_step", fmt::format("no further step up to {}", to_text(input.data_end))}};
  result.headline = headline_of(journey);
  result.tables = {flows_table(journey), steps_table(journey)};
  result.figures = {flow_figure(journey)};
  add_checks(journey, result);
  result.notes.push_back(fmt::format(
      "At {} of {} steps more than one {} counted; the one with the largest amount represents them.",
      analysis::number(journey.mixed), analysis::number(journey.steps), journey.item));
  return result;
}

}  // namespace pear::sequence
