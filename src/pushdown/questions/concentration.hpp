// concentration, computed in a database.
#pragma once

#include "pushdown/questions/answer.hpp"

namespace pear::pushdown {

[[nodiscard]] Answer answer_concentration;

}  // namespace pear::pushdown
