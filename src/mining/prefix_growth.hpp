// Grows sequences item by item from their beginnings.
#pragma once

#include <optional>

#include "analysis/progress.hpp"
#include "mining/sequential_patterns.hpp"

namespace pear::mining {

/// All sequences of up to `bounds.largest` steps that at least `bounds.least` customers went through,
/// including those of one step; nothing if there are more than `bounds.at_most` of two steps or more. Pattern
/// growth over projected histories (Pei, Han, Mortazavi-Asl, Wang, Pinto, Chen, Dayal and Hsu, Mining
/// sequential patterns by pattern-growth: the PrefixSpan approach, IEEE TKDE 16, 2004), where a projection is
/// a list of places in the histories. Because gaps may be bounded, the search carries along every place at
/// which a sequence can end, each with the latest first day that reaches it (after Zaki, Sequence mining in
/// categorical domains: incorporating constraints, CIKM 2000). Rare items cost time; see drop_rare. On all
/// threads; the same for any number of them.
[[nodiscard]] std::optional<Sequences> mine_sequences(const Histories& histories, const HistoryIndex& index,
                                                      const SequenceRule& rule, const MiningBounds& bounds,
                                                      const analysis::Progress& progress = {});

}  // namespace pear::mining
