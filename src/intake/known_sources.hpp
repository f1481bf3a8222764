// The sources of a daybook, compared with those of a plan.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "daybook/provenance.hpp"
#include "intake/plan/intake_plan.hpp"

namespace pear::intake {

/// The sources of lines in a daybook that the plan does not read, such as those of an earlier --append. A
/// source is recognised by its name without folder and endings: exports/sales.csv.gz is sales.csv.
[[nodiscard]] std::vector<daybook::SourceRecord> sources_not_read(const daybook::Provenance& provenance,
                                                                  const IntakePlan& plan);

/// Of the bytes of a file (and the name of the sheet), as in a SourceRecord; nothing for a database, standard
/// input, or a file that cannot be read.
[[nodiscard]] std::optional<std::string> content_hash_of(const sources::TableAddress& address);

/// Marks the sources of lines that the daybook contains already, byte for byte, so that only their header is
/// read, and returns them. Reads all of them.
std::vector<std::string> skip_known_sources(const daybook::Provenance& provenance, IntakePlan& plan);

/// Whether any source of lines is not marked like that.
[[nodiscard]] bool has_new_lines(const IntakePlan& plan);

}  // namespace pear::intake
