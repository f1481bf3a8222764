// A first intake file, to be imported as it stands or mended.
#pragma once

#include <string>
#include <vector>

#include "intake/inspect/guess.hpp"
#include "intake/inspect/profile.hpp"

namespace pear::intake {

/// The intake file of a guess, with comments that say why. What only the user can know stands there as
/// commented-out alternatives; what is missing is named. `folder` is where the file will stand: paths are
/// known from there.
[[nodiscard]] std::string starter_intake(const Guess& guess, const std::vector<SourceProfile>& profiles,
                                         const std::string& folder);

/// A text as TOML writes it.
[[nodiscard]] std::string toml_text(std::string_view text);

}  // namespace pear::intake
