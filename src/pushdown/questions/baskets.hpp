// baskets, computed in a database.
#pragma once

#include "pushdown/questions/answer.hpp"

namespace pear::pushdown {

/// Compositions, sizes and the values of each item; its pull is left out, as it needs the baskets themselves.
[[nodiscard]] Answer answer_baskets;

}  // namespace pear::pushdown
