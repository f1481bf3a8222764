// Which row of one table belongs to which row of another.
#pragma once

#include <cstdint>
#include <functional>
#include <string>
#include <vector>

#include "base/error.hpp"
#include "intake/plan/intake_plan.hpp"
#include "intake/read/raw_table.hpp"

namespace pear::intake {

/// A key that only one side of a join has.
struct UnmatchedKey {
  TableKind table = TableKind::lines;        ///< that has the key
  TableKind missing_in = TableKind::orders;  ///< that does not have it
  std::string key;
  std::uint64_t rows = 0;
  std::string first_source;
  std::uint64_t first_line = 0;
};

/// The outcome of a join, counted in rows.
struct JoinCount {
  TableKind many = TableKind::lines;
  TableKind one = TableKind::orders;
  std::string keys;                     ///< "order_id"
  std::uint64_t matched = 0;            ///< rows of the many
  std::uint64_t unmatched = 0;          ///< rows of the many without a row of the one
  std::uint64_t unused = 0;             ///< rows of the one without a row of the many
  std::vector<std::uint8_t> used = {};  ///< per row of the one: 1 if a row of the many uses it
};

struct Join {
  JoinCount count;
  std::vector<std::uint32_t> row_of;    ///< per row of the many: the row of the one, or kNoMember
  std::vector<UnmatchedKey> unmatched;  ///< both sides; in order of first appearance
};

/// Adds the keys of these rows of a table, which another table lacks, in order of first appearance. The rows
/// may be in any order: the earliest line of each key counts.
void list_unmatched(const RawTable& table, TableKind missing_in, const std::vector<std::uint32_t>& rows,
                    const std::function<std::string(std::uint32_t)>& key_of,
                    std::vector<UnmatchedKey>& unmatched);

/// Joins many rows to one each, by equal texts in all pairs of columns; an empty key matches nothing. Errors:
/// data, for a missing column, and for keys that occur twice on the one side, with examples: such a join
/// would multiply rows.
[[nodiscard]] OrError<Join> join_tables(const RawTable& many, const RawTable& one, const JoinKeys& keys);

}  // namespace pear::intake
