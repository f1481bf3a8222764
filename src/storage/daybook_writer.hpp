// Writes a daybook to its file.
#pragma once

#include <string>

#include "base/error.hpp"
#include "daybook/daybook.hpp"
#include "daybook/provenance.hpp"

namespace pear::storage {

/// Writes the daybook next to `path`, syncs it and renames it over `path`. Returns the daybook's fingerprint.
/// Errors: io; the old file, if there is one, is unchanged then.
[[nodiscard]] OrError<std::string> write_daybook(const std::string& path, const daybook::Daybook& daybook,
                                                 const daybook::Provenance& provenance);

}  // namespace pear::storage
