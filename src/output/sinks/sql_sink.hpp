// Writes rows to a table of a database.
#pragma once

#include <memory>
#include <string>
#include <vector>

#include "base/error.hpp"
#include "output/sinks/row_sink.hpp"

namespace pear::output {

/// A new table of a database, filled in one transaction. Errors: usage, for an address without table or with
/// a password; io, with the database's message, also if the table exists already.
[[nodiscard]] OrError<std::unique_ptr<RowSink>> sql_sink(const std::string& address,
                                                         const std::vector<SinkColumn>& columns);

}  // namespace pear::output
