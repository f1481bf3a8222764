// Why rows were rejected, and how often.
#pragma once

#include <cstdint>
#include <map>
#include <string>
#include <string_view>
#include <utility>
#include <vector>

#include "intake/read/row_batch.hpp"

namespace pear::intake {

/// How many rows were rejected for one reason.
struct RejectReason {
  std::string table;
  std::string column;
  std::string reason;
  std::uint64_t rows = 0;
  std::string first_source;
  std::uint64_t first_line = 0;  ///< of that source
  std::string first_value;
};

/// The order of the sources of each table, for rows that do not come in this order.
class SourceOrder {
 public:
  void add(std::string_view table, const std::string& source) {
    places_.try_emplace({std::string(table), source}, places_.size());
  }
  /// Whether a row comes before another one of the same table; false if the sources are not known.
  [[nodiscard]] bool is_before(std::string_view table, const std::string& source, std::uint64_t line,
                               const std::string& other_source, std::uint64_t other_line) const;

 private:
  std::map<std::pair<std::string, std::string>, std::size_t> places_;
};

class RejectTally {
 public:
  void add(std::string_view table, const RejectedRow& row, const SourceOrder& order);
  /// Most frequent first.
  [[nodiscard]] std::vector<RejectReason> reasons() const;

 private:
  std::vector<RejectReason> reasons_;
};

}  // namespace pear::intake
