// Texts that carry their hash, so that it is computed once.
#pragma once

#include <cstdint>
#include <string_view>

#include <xxhash.h>

namespace pear {

struct HashedText {
  explicit HashedText(std::string_view of) : text(of), hash(XXH3_64bits(of.data(), of.size())) {}
  bool operator==(const HashedText& other) const { return hash == other.hash && text == other.text; }

  struct Hash {
    std::size_t operator()(const HashedText& hashed) const { return hashed.hash; }
  };

  std::string_view text;
  std::uint64_t hash;
};

}  // namespace pear
