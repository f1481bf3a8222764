// The manual page, from the same declarations that the command line is read by.
#pragma once

#include <string>

namespace pear::cli {

/// pear-thread.1, in the man macros.
[[nodiscard]] std::string manual_page();

}  // namespace pear::cli
