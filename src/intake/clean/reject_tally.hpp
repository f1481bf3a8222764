// Why rows were rejected, and how often.
#pragma once

#include <string>
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

class RejectTally {
 public:
  void add(std::string_view table, const RejectedRow& row);
  /// Most frequent first.
  [[nodiscard]] std::vector<RejectReason> reasons() const;

 private:
  std::vector<RejectReason> reasons_;
};

}  // namespace pear::intake
