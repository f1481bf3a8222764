// A daybook into its file.
#pragma once

#include <string>

#include "base/error.hpp"
#include "daybook/daybook.hpp"
#include "daybook/provenance.hpp"

namespace pear::storage {

/// Writes the daybook beside `path`, syncs it and renames it over. Returns the daybook's fingerprint.
/// Errors: io; the old file, where there is one, is then untouched.
[[nodiscard]] OrError<std::string> write_daybook(const std::string& path, const daybook::Daybook& daybook,
                                                 const daybook::Provenance& provenance);

}  // namespace pear::storage
