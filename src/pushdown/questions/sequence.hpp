// sequence in a database: which product customers buy after which, and how long after.
#pragma once

#include "pushdown/questions/answer.hpp"

namespace pear::pushdown {

/// Pairs of first purchases, without the test of their direction, which compares single visits. Longer
/// sequences and repeated purchases need the histories.
Answer answer_sequence;

}  // namespace pear::pushdown
