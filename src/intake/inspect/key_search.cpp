#include "intake/inspect/key_search.hpp"

namespace pear::intake {

std::uint64_t shared_rows(const ColumnProfile& many, const ColumnProfile& one) {
  std::uint64_t rows = 0;
  for (const auto& [hash, count] : many.values) rows += one.values.contains(hash) ? count : 0;
  return rows;
}

std::optional<Key> key_between(const SourceProfile& many, const SourceProfile& one) {
  std::optional<Key> best;
  for (std::size_t ours = 0; ours < many.columns.size(); ++ours) {
    const ColumnProfile& column = many.columns[ours];
    if (column.values.size() >= column.filled()) continue;  // one to one
    for (std::size_t theirs = 0; theirs < one.columns.size(); ++theirs) {
      const ColumnProfile& other = one.columns[theirs];
      if (other.filled() == 0 || other.values.size() * 10 < other.filled() * 9) continue;
      const std::uint64_t rows = shared_rows(column, other);
      if (rows * 2 >= column.filled() && rows > (best ? best->rows : 0)) best = Key{ours, theirs, rows};
    }
  }
  return best;
}

}  // namespace pear::intake
