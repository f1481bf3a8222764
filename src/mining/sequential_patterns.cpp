#include "mining/sequential_patterns.hpp"

#include <algorithm>
#include <numeric>

#include "mining/prefix_growth.hpp"

namespace pear::mining {

std::size_t steps_of(StepItems items) {
  return static_cast<std::size_t>(
      std::count_if(items.begin(), items.end(), [](StepItem item) { return item.begins_step(); }));
}

void Sequences::add(StepItems items, SequenceFacts facts) {
  items_.insert(items_.end(), items.begin(), items.end());
  begins_.push_back(static_cast<std::uint32_t>(items_.size()));
  facts_.push_back(facts);
}

void Sequences::append(const Sequences& other) {
  for (std::size_t sequence = 0; sequence < other.size(); ++sequence)
    add(other.items(sequence), other.facts(sequence));
}

void Sequences::sort() {
  std::vector<std::uint32_t> order(size());
  std::iota(order.begin(), order.end(), 0U);
  std::sort(order.begin(), order.end(), [&](std::uint32_t a, std::uint32_t b) {
    const StepItems x = items(a), y = items(b);
    const std::size_t steps_x = steps_of(x), steps_y = steps_of(y);
    if (steps_x != steps_y) return steps_x < steps_y;
    return std::lexicographical_compare(x.begin(), x.end(), y.begin(), y.end(), [](StepItem i, StepItem j) {
      return i.begins_step() == j.begins_step() ? i.code() < j.code() : i.begins_step();
    });
  });
  Sequences sorted;
  sorted.items_.reserve(items_.size());
  for (const std::uint32_t sequence : order) sorted.add(items(sequence), facts(sequence));
  *this = std::move(sorted);
}

namespace {

std::string_view as_bytes(StepItems items) {
  return {reinterpret_cast<const char*>(items.data()), items.size_bytes()};
}

/// Marks the patterns that a sequence contains. The pattern that is shorter by one item contains the others
/// in turn, unless it was not frequent enough itself, which happens if gaps are bounded.
class Containment {
 public:
  Containment(const Sequences& sequences, const SequenceRule& rule, OnlySets only,
              std::vector<std::uint8_t>& kept)
      : sequences_(sequences),
        index_(sequences),
        goes_deep_(rule.max_gap != SequenceRule::kAny),
        only_(only),
        kept_(kept) {}

  void mark_within(StepItems items, std::uint32_t customers) {
    for (std::size_t left_out = 0; items.size() > 1 && left_out < items.size(); ++left_out) {
      std::vector<StepItem> part(items.begin(), items.end());
      const bool began = part[left_out].begins_step();
      part.erase(part.begin() + static_cast<std::ptrdiff_t>(left_out));
      if (began && left_out < part.size()) part[left_out] = StepItem(part[left_out].code(), true);
      const auto found = index_.find(part);
      if (found && (only_ == OnlySets::maximal || customers >= sequences_.facts(*found).customers))
        kept_[*found] = 0;
      if (!found || goes_deep_) mark_within(part, customers);
    }
  }

 private:
  const Sequences& sequences_;
  SequenceIndex index_;
  bool goes_deep_;
  OnlySets only_;
  std::vector<std::uint8_t>& kept_;
};

}  // namespace

SequenceIndex::SequenceIndex(const Sequences& sequences) {
  places_.reserve(sequences.size());
  for (std::uint32_t sequence = 0; sequence < sequences.size(); ++sequence)
    places_.emplace(as_bytes(sequences.items(sequence)), sequence);
}

std::optional<std::uint32_t> SequenceIndex::find(StepItems items) const {
  const auto found = places_.find(as_bytes(items));
  return found == places_.end() ? std::nullopt : std::optional(found->second);
}

std::vector<std::uint8_t> kept_sequences(const Sequences& sequences, const SequenceRule& rule,
                                         OnlySets only) {
  std::vector<std::uint8_t> kept(sequences.size(), 1);
  if (only == OnlySets::all) return kept;
  Containment containment(sequences, rule, only, kept);
  for (std::size_t sequence = 0; sequence < sequences.size(); ++sequence)
    containment.mark_within(sequences.items(sequence), sequences.facts(sequence).customers);
  return kept;
}

Sequences mine_what_fits(Histories& histories, const SequenceRule& rule, MiningBounds& bounds,
                         const analysis::Progress& progress) {
  for (;; bounds.least *= 2) {
    drop_rare(histories, bounds.least);
    auto mined = mine_sequences(histories, HistoryIndex(histories), rule, bounds, progress);
    if (mined) return std::move(*mined);
  }
}

}  // namespace pear::mining
