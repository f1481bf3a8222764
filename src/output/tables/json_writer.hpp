// A result as JSON (RFC 8259).
#pragma once

#include "base/error.hpp"
#include "files/atomic_file.hpp"
#include "output/tables/data_package.hpp"
#include "result/result.hpp"

namespace pear::output {

/// {"question", "headline", ..., "tables": [{"part", "title", "description", "fields", "rows": [{...},
/// ...]}]}: the trail as in a data package, and rows as objects; numbers with all their digits, dates as
/// text, null for no value. Errors: io.
[[nodiscard]] OrError<void> write_json(const result::Result& result, const Trail& trail,
                                       files::AtomicFile& file);

}  // namespace pear::output
