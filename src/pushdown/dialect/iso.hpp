// Plain SQL of the standard, for databases that are reached by ODBC.
#pragma once

#include <memory>

#include "pushdown/dialect/dialect.hpp"

namespace pear::pushdown {

/// ISO/IEC 9075-2:2016, with common table expressions, window functions and values of the type BOOLEAN. Texts
/// are sorted, trimmed and changed to lower or upper case as the database does.
[[nodiscard]] std::unique_ptr<Dialect> iso_dialect();

}  // namespace pear::pushdown
