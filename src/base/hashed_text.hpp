// A text that carries its hash (XXH3, 64 bits), so that it is computed once.
#pragma once

#include <cstdint>
#include <string_view>

#include <xxhash.h>

namespace pear {

struct HashedText {
  explicit HashedText(std::string_view of) : text(of), hash(XXH3_64bits(of.data(), of.size())) {}
  std::string_view text;
  std::uint64_t hash;
};

}  // namespace pear
