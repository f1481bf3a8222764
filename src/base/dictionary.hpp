// Codes for the texts of a whole table.
#pragma once

#include <cstdint>
#include <string_view>

#include <absl/container/flat_hash_set.h>

#include "base/hashed_text.hpp"
#include "base/short_text.hpp"
#include "base/text_array.hpp"

namespace pear {

/// Texts, each once; a text's code is its position. Uses 9 bytes a text in addition to the texts.
class Dictionary {
 public:
  Dictionary() : slots_(0, SlotHash{}, SlotEqual{&texts_}) {}
  Dictionary(const Dictionary&) = delete;
  Dictionary& operator=(const Dictionary&) = delete;

  std::uint32_t code_of(const HashedText& text);
  /// Loads what code_of() will read into the cache.
  void prefetch(const HashedText& text) const { slots_.prefetch(Probe{text.text, short_hash(text)}); }
  [[nodiscard]] TextArray take();

 private:
  struct Slot {
    std::uint32_t code;
    std::uint32_t hash;
  };
  struct Probe {
    std::string_view text;
    std::uint32_t hash;
  };
  static std::uint32_t short_hash(const HashedText& text) {
    return static_cast<std::uint32_t>(text.hash >> 32U);
  }
  struct SlotHash {
    using is_transparent = void;
    std::size_t operator()(const Slot& slot) const { return spread(slot.hash); }
    std::size_t operator()(const Probe& probe) const { return spread(probe.hash); }
    static std::size_t spread(std::uint32_t hash) { return hash * std::size_t{0x9E3779B97F4A7C15}; }
  };
  struct SlotEqual {
    using is_transparent = void;
    const TextArray* texts;
    bool operator()(const Slot& a, const Slot& b) const { return a.code == b.code; }
    bool operator()(const Slot& a, const Probe& b) const {
      return a.hash == b.hash && same_text((*texts)[a.code], b.text);
    }
    bool operator()(const Probe& a, const Slot& b) const { return (*this)(b, a); }
  };
  TextArray texts_;
  absl::flat_hash_set<Slot, SlotHash, SlotEqual> slots_;
};

}  // namespace pear
