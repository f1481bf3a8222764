// journey: how customers move from step to step.
#pragma once

#include <compare>
#include <cstdint>
#include <map>
#include <string>
#include <utility>
#include <vector>

#include "analysis/question_input.hpp"
#include "analysis/tables/item_labels.hpp"
#include "base/error.hpp"
#include "questions/sequence/options.hpp"

namespace pear::sequence {

constexpr std::uint32_t kNoStep = 0xFFFFFFFF;  ///< before the first step, or after the last

/// The customers who moved from one item to another at one step. In order of the step, then of the items.
struct FlowKey {
  std::uint32_t step = 0;  ///< from 1: the step at which they arrive
  std::uint32_t from = kNoStep, to = kNoStep;
  auto operator<=>(const FlowKey&) const = default;
};
struct FlowSum {
  std::uint64_t customers = 0;
  std::vector<std::int32_t> days;  ///< since the step before
};
using Flows = std::map<FlowKey, FlowSum>;

/// What customers did, step by step.
struct Journey {
  const analysis::QuestionInput& input;  ///< borrowed
  Options options;
  expression::GroupKey key;
  std::string item;  ///< "category"
  Flows flows;
  std::uint64_t customers = 0;         ///< who bought anything
  std::uint64_t steps = 0, mixed = 0;  ///< steps counted, and those with several items

  [[nodiscard]] analysis::ItemLabels names() const { return {input.daybook, key, item}; }
  [[nodiscard]] std::string title(std::uint32_t code) const {
    return code == kNoStep ? "" : names().title(code);
  }
};

/// A flow with its key.
using Flow = Flows::value_type;

/// Flows of a step, the most frequent first, customers without a further step last.
[[nodiscard]] std::vector<const Flow*> flows_in_order(const Journey& journey);

/// How many customers reached an item at a step.
[[nodiscard]] std::map<std::pair<std::uint32_t, std::uint32_t>, std::uint64_t> arrivals(
    const Journey& journey);

/// Steps are days on which a customer bought something that counts. O(lines) on all threads; the same for any
/// number of them. Errors: usage, if --journey does not fit; data, if nothing was bought with a value of it.
[[nodiscard]] OrError<Journey> travel(const analysis::QuestionInput& input, const Options& options);

}  // namespace pear::sequence
