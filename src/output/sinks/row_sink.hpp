// Where rows are written to: a file or a table of a database.
#pragma once

#include <cstdint>
#include <memory>
#include <string>
#include <string_view>
#include <vector>

#include "base/error.hpp"

namespace pear::output {

/// What the values of a column are, as far as a database wants to know. All are handed over as texts:
/// decimals with a point, dates as ISO 8601, truths as "true" and "false"; empty for no value.
enum class SinkType : std::uint8_t { text, decimal, date, time, truth };

struct SinkColumn {
  std::string name;
  SinkType type = SinkType::text;
};

/// Takes rows one after another; what was written appears with commit(), all of it, or not at all.
class RowSink {
 public:
  virtual ~RowSink() = default;
  RowSink() = default;
  RowSink(const RowSink&) = delete;
  RowSink& operator=(const RowSink&) = delete;

  /// As many values as there are columns. Error: io.
  [[nodiscard]] virtual OrError<void> add(const std::vector<std::string>& values) = 0;
  [[nodiscard]] virtual OrError<void> commit() = 0;
  /// What was written, as messages call it.
  [[nodiscard]] virtual std::string name() const = 0;
};

}  // namespace pear::output
