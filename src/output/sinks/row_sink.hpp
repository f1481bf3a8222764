// A destination for rows: a file or a table of a database.
#pragma once

#include <cstdint>
#include <memory>
#include <string>
#include <string_view>
#include <vector>

#include "base/error.hpp"

namespace pear::output {

/// The type of a column's values, as far as a database needs it. All are passed as texts: decimals with a
/// point, dates as ISO 8601, truth values as "true" and "false"; empty for no value.
enum class SinkType : std::uint8_t { text, decimal, date, time, truth };

struct SinkColumn {
  std::string name;
  SinkType type = SinkType::text;
};

/// Receives rows one after another; they appear with commit(), all of them or none.
class RowSink {
 public:
  virtual ~RowSink() = default;
  RowSink() = default;
  RowSink(const RowSink&) = delete;
  RowSink& operator=(const RowSink&) = delete;

  /// As many values as there are columns. Error: io.
  [[nodiscard]] virtual OrError<void> add(const std::vector<std::string>& values) = 0;
  [[nodiscard]] virtual OrError<void> commit() = 0;
  /// The name of the destination in messages.
  [[nodiscard]] virtual std::string name() const = 0;
};

}  // namespace pear::output
