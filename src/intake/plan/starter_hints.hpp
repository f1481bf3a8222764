// Blocks of a starter intake file that only the user can decide on.
#pragma once

#include <string>
#include <vector>

#include "intake/inspect/guess.hpp"

namespace pear::intake {

/// [returns], [fees] and [[exclude]], commented out, with the values that call for them; nothing where there
/// are none.
[[nodiscard]] std::string hinted_blocks(const Guess& guess, const std::vector<SourceProfile>& profiles);

}  // namespace pear::intake
