#include "intake/clean/reject_tally.hpp"

#include <algorithm>
#include <tuple>

namespace pear::intake {

bool SourceOrder::is_before(std::string_view table, const std::string& source, std::uint64_t line,
                            const std::string& other_source, std::uint64_t other_line) const {
  const auto place = places_.find({std::string(table), source});
  const auto other = places_.find({std::string(table), other_source});
  if (place == places_.end() || other == places_.end()) return false;
  return std::pair(place->second, line) < std::pair(other->second, other_line);
}

void RejectTally::add(std::string_view table, const RejectedRow& row, const SourceOrder& order) {
  const auto same = [&](const RejectReason& known) {
    return known.table == table && known.column == row.column && known.reason == row.kind;
  };
  auto found = std::find_if(reasons_.begin(), reasons_.end(), same);
  if (found == reasons_.end())
    found = reasons_.insert(found,
                            {std::string(table), row.column, row.kind, 0, row.source, row.line, row.value});
  ++found->rows;
  if (!order.is_before(table, row.source, row.line, found->first_source, found->first_line)) return;
  found->first_source = row.source;
  found->first_line = row.line;
  found->first_value = row.value;
}

std::vector<RejectReason> RejectTally::reasons() const {
  std::vector<RejectReason> sorted = reasons_;
  std::stable_sort(sorted.begin(), sorted.end(), [](const RejectReason& a, const RejectReason& b) {
    return a.rows != b.rows ? a.rows > b.rows
                            : std::tie(a.table, a.column, a.reason) < std::tie(b.table, b.column, b.reason);
  });
  return sorted;
}

}  // namespace pear::intake
