// Samples of large files.
#pragma once

#include <cstdint>
#include <string>

#include "base/error.hpp"
#include "sources/table_reader.hpp"

namespace pear::sources {

/// Files up to this size are read whole for inspection; of larger ones that are not compressed, this much
/// from start, middle and end together.
constexpr std::uint64_t kLookedAtWhole = 200'000'000;

struct Sample {
  TableReader reader;
  bool is_whole = true;
};

/// Opens a table for inspection. Rows of a sample's middle and end begin after a line feed. Errors: those of
/// TableReader::open.
[[nodiscard]] OrError<Sample> open_sample(const TableAddress& address);

}  // namespace pear::sources
