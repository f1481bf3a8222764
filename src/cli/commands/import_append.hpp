// Adding an import to a daybook that is there.
#pragma once

#include <string>

#include "base/error.hpp"
#include "daybook/provenance.hpp"
#include "intake/import.hpp"
#include "result/result.hpp"

namespace pear::cli {

/// Skips the sources of lines that the daybook of `path` contains already, and returns them.
/// Errors: usage, if one is a sample that the other is not; data, if no other is left; those of the daybook
/// file.
[[nodiscard]] OrError<std::vector<std::string>> skip_known_sources(const std::string& path,
                                                                   intake::IntakePlan& plan);

/// Puts the daybook of `path` and the imported one together (`replace_orders`: see RepeatedOrders), in
/// `imported` and `provenance`; notes and checks go to the report. Lists of customers and products, old and
/// new, apply to the lines of both. Errors: data, for another currency; those of the daybook file.
[[nodiscard]] OrError<void> append_to(const std::string& path, bool replace_orders,
                                      intake::Imported& imported, daybook::Provenance& provenance,
                                      result::Result& report);

}  // namespace pear::cli
