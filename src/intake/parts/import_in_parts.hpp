// Imports more rows than fit into memory.
#pragma once

#include <cstdint>
#include <functional>
#include <string>

#include "base/error.hpp"
#include "daybook/line_table.hpp"
#include "intake/import.hpp"

namespace pear::intake {

/// How an import in parts works.
struct PartsOptions {
  std::string folder;        ///< a scratch folder, which must exist
  std::uint64_t memory = 0;  ///< bytes that one part may need
};

/// Receives the lines of one part, which contains whole orders.
using TakePart = std::function<OrError<void>(daybook::LineTable)>;

/// The same as import_tables() without the daybook: `built` is empty, and describe_built() follows once it is
/// not. The rows of lines and orders are written to disk, and cleaned, joined and passed on part by part; all
/// other tables are in memory. Rows that are left out are listed part by part. Errors: those of
/// import_tables() and of `take`; io; usage, for a plan that compares rows of different orders.
[[nodiscard]] OrError<Imported> import_in_parts(const IntakePlan& plan, const ImportHooks& hooks,
                                                const PartsOptions& options, const TakePart& take);

}  // namespace pear::intake
