// Writes rows to a CSV file.
#pragma once

#include <memory>
#include <string>
#include <vector>

#include "base/error.hpp"
#include "output/sinks/row_sink.hpp"
#include "output/tables/csv_writer.hpp"

namespace pear::output {

/// A CSV file (see csv_writer). Error: io.
[[nodiscard]] OrError<std::unique_ptr<RowSink>> csv_sink(const std::string& path,
                                                         const std::vector<SinkColumn>& columns,
                                                         const CsvStyle& style);

}  // namespace pear::output
