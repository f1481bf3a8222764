// A first intake file, to be imported as it is or edited.
#pragma once

#include <string>
#include <vector>

#include "intake/inspect/guess.hpp"
#include "intake/inspect/profile.hpp"

namespace pear::intake {

/// The intake file of a guess, with comments that give the reasons. Alternatives that only the user can
/// decide are written as comments; missing roles are named. `folder` is where the file will be: paths are
/// relative to it.
[[nodiscard]] std::string starter_intake(const Guess& guess, const std::vector<SourceProfile>& profiles,
                                         const std::string& folder);

/// A text in TOML form.
[[nodiscard]] std::string toml_text(std::string_view text);

}  // namespace pear::intake
