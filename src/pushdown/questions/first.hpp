// first, computed in a database.
#pragma once

#include "pushdown/questions/answer.hpp"

namespace pear::pushdown {

/// The lines of first orders are sent, as the answer names their products.
[[nodiscard]] Answer answer_first;

}  // namespace pear::pushdown
