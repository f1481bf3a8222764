// SQLite, with the functions of sqlite_functions.hpp, as it has no exact decimals.
#pragma once

#include <memory>

#include "pushdown/dialect/dialect.hpp"

namespace pear::pushdown {

[[nodiscard]] std::unique_ptr<Dialect> sqlite_dialect();

}  // namespace pear::pushdown
