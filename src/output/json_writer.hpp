// A result as JSON (RFC 8259).
#pragma once

#include "base/error.hpp"
#include "output/atomic_file.hpp"
#include "output/data_package.hpp"
#include "result/result.hpp"

namespace pear {

/// {"question", "headline", ..., "tables": [{"part", "title", "description", "fields", "rows": [{...},
/// ...]}]}: the trail as in a data package, and rows as objects; numbers with all their digits, dates as
/// text, null for no value. Errors: io.
[[nodiscard]] OrError<void> write_json(const Result& result, const Trail& trail, AtomicFile& file);

}  // namespace pear
