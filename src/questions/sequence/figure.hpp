// The figures of sequence.
#pragma once

#include <vector>

#include "questions/sequence/counts.hpp"
#include "result/figure.hpp"

namespace pear::sequence {

/// The most significant steps as arrows, or what comes before and after the requested item; and how soon.
[[nodiscard]] std::vector<result::Figure> figures_of(const Counts& counts);

}  // namespace pear::sequence
