// PostgreSQL, and systems that speak its protocol and SQL.
#pragma once

#include <memory>

#include "pushdown/dialect/dialect.hpp"

namespace pear::pushdown {

[[nodiscard]] std::unique_ptr<Dialect> postgresql_dialect();

}  // namespace pear::pushdown
