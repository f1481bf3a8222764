// The contents of several sources of one table.
#pragma once

#include <vector>

#include "intake/inspect/profile.hpp"

namespace pear::intake {

/// The counts of sources with the same columns, as if they were one source; with the name of the first.
[[nodiscard]] SourceProfile joined_profile(const std::vector<const SourceProfile*>& sources);

}  // namespace pear::intake
