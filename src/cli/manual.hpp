// The manual page, from the declarations of commands and options.
#pragma once

#include <string>

namespace pear::cli {

/// pear-thread.1, in the man macros.
[[nodiscard]] std::string manual_page();

}  // namespace pear::cli
