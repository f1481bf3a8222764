#include "intake/clean/reject_tally.hpp"

#include <algorithm>

namespace pear::intake {

void RejectTally::add(std::string_view table, const RejectedRow& row) {
  const auto same = [&](const RejectReason& known) {
    return known.table == table && known.column == row.column && known.reason == row.kind;
  };
  auto found = std::find_if(reasons_.begin(), reasons_.end(), same);
  if (found == reasons_.end())
    found = reasons_.insert(found,
                            {std::string(table), row.column, row.kind, 0, row.source, row.line, row.value});
  ++found->rows;
}

std::vector<RejectReason> RejectTally::reasons() const {
  std::vector<RejectReason> sorted = reasons_;
  std::stable_sort(sorted.begin(), sorted.end(),
                   [](const RejectReason& a, const RejectReason& b) { return a.rows > b.rows; });
  return sorted;
}

}  // namespace pear::intake
