// Adding an import to a daybook that is there.
#pragma once

#include <string>

#include "base/error.hpp"
#include "daybook/provenance.hpp"
#include "intake/import.hpp"
#include "result/result.hpp"

namespace pear::cli {

/// Puts the daybook of `path` and the imported one together, in `imported` and `provenance`; notes and checks
/// go to the report. Lists of customers and products, old and new, apply to the lines of both. Errors: data,
/// for a source that is in the daybook already and for another currency; those of the daybook file.
[[nodiscard]] OrError<void> append_to(const std::string& path, intake::Imported& imported,
                                      daybook::Provenance& provenance, result::Result& report);

}  // namespace pear::cli
