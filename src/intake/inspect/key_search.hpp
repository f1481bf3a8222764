// Columns of two sources that have values in common.
#pragma once

#include <cstddef>
#include <cstdint>
#include <optional>

#include "intake/inspect/profile.hpp"

namespace pear::intake {

/// Of the rows of `many`, how many have a value that `one` has.
[[nodiscard]] std::uint64_t shared_rows(const ColumnProfile& many, const ColumnProfile& one);

/// A column of one source, and the column of another in which its values occur.
struct Key {
  std::size_t ours = 0, theirs = 0;
  std::uint64_t rows = 0;  ///< of ours, with a value in theirs
};

/// The column of `many` that repeats values and the one of `one` in which nearly each occurs once, which have
/// most values in common: those of at least half of the rows.
[[nodiscard]] std::optional<Key> key_between(const SourceProfile& many, const SourceProfile& one);

}  // namespace pear::intake
