// How one customer went through a sequence.
#pragma once

#include <cstdint>
#include <span>

#include "mining/sequential_patterns.hpp"

namespace pear::mining {

/// Days of the last step, and of all steps.
struct EmbeddingDays {
  std::int32_t last = 0, all = 0;
};

/// Of all ways through the sequence that the rule allows, the days of the one with the earliest first step,
/// then the earliest second one, and so on. At least one way must exist. The cost is the number of ways that
/// are tried: without bounds on gaps, one.
[[nodiscard]] EmbeddingDays earliest_embedding(std::span<const HistoryEntry> history, StepItems items,
                                               const SequenceRule& rule);

}  // namespace pear::mining
