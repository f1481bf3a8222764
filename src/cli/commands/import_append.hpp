// Adding an import to a daybook that is there.
#pragma once

#include <string>
#include <vector>

#include "base/error.hpp"
#include "daybook/builder.hpp"
#include "daybook/provenance.hpp"
#include "result/result.hpp"

namespace pear::cli {

/// Puts the daybook of `path` and the imported one together, in `built` and `provenance`; notes and checks go
/// to the report. `master`: see merge_daybooks(). Errors: data, for a source that is in the daybook already
/// and for another currency; those of the daybook file.
[[nodiscard]] OrError<void> append_to(const std::string& path, const std::vector<std::string>& master,
                                      daybook::BuiltDaybook& built, daybook::Provenance& provenance,
                                      result::Result& report);

}  // namespace pear::cli
