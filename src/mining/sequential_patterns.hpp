// Sequences of items that many customers bought one after another.
#pragma once

#include <cstdint>
#include <optional>
#include <span>
#include <string_view>
#include <vector>

#include <absl/container/flat_hash_map.h>

#include "analysis/question_input.hpp"
#include "mining/frequent_itemsets.hpp"
#include "mining/purchase_histories.hpp"

namespace pear::mining {

/// An item of a sequence: its code, and whether it is the first of a step.
class StepItem {
 public:
  StepItem(std::uint32_t code, bool begins_step) : word_(code | (begins_step ? kBegins : 0)) {}
  [[nodiscard]] std::uint32_t code() const { return word_ & ~kBegins; }
  [[nodiscard]] bool begins_step() const { return (word_ & kBegins) != 0; }
  auto operator<=>(const StepItem&) const = default;

 private:
  static constexpr std::uint32_t kBegins = 0x80000000;
  std::uint32_t word_;
};

using StepItems = std::span<const StepItem>;

[[nodiscard]] std::size_t steps_of(StepItems items);

/// The figures of a sequence. Days are medians over its customers; if a customer went through it in several
/// ways, the first one counts: with the earliest first step, then the earliest second one, and so on.
struct SequenceFacts {
  std::uint32_t customers = 0;  ///< customers who went through it
  std::uint32_t after_any = 0;  ///< of a single step: for how many customers it follows any of their orders
  std::int32_t last_days = 0, all_days = 0;  ///< of the last step, and of all steps
};

/// Sequences, by number of steps, then in order of their items.
class Sequences {
 public:
  void add(StepItems items, SequenceFacts facts);
  void append(const Sequences& other);
  void sort();

  [[nodiscard]] std::size_t size() const { return facts_.size(); }
  [[nodiscard]] StepItems items(std::size_t sequence) const {
    return std::span(items_).subspan(begins_[sequence], begins_[sequence + 1] - begins_[sequence]);
  }
  [[nodiscard]] const SequenceFacts& facts(std::size_t sequence) const { return facts_[sequence]; }

 private:
  std::vector<StepItem> items_;
  std::vector<std::uint32_t> begins_{0};
  std::vector<SequenceFacts> facts_;
};

/// Finds a sequence among others by its items. Borrows them.
class SequenceIndex {
 public:
  explicit SequenceIndex(const Sequences& sequences);
  [[nodiscard]] std::optional<std::uint32_t> find(StepItems items) const;

 private:
  absl::flat_hash_map<std::string_view, std::uint32_t> places_;
};

/// What mine_sequences (prefix_growth.hpp) finds with the least support, doubled from `bounds.least`, at
/// which there are at most `at_most` sequences. `bounds` and `histories`, which loses rare items, become
/// those of that support.
[[nodiscard]] Sequences mine_what_fits(Histories& histories, const SequenceRule& rule, MiningBounds& bounds,
                                       const analysis::Progress& progress = {});

/// The patterns that remain: `closed` ones have no longer sequence around them with as many customers,
/// `maximal` ones none at all. Only the given sequences are compared.
[[nodiscard]] std::vector<std::uint8_t> kept_sequences(const Sequences& sequences, const SequenceRule& rule,
                                                       OnlySets only);

}  // namespace pear::mining
