// Comparing texts that are nearly always short, as ids are, without a call for each.
#pragma once

#include <cstdint>
#include <cstring>
#include <string_view>

namespace pear {

/// a == b. For texts of up to 16 bytes a few loads from each decide, which may overlap.
inline bool same_text(std::string_view a, std::string_view b) {
  if (a.size() != b.size()) return false;
  const auto loads_agree = [&]<class Word>(Word) {
    Word a_front = 0, a_back = 0, b_front = 0, b_back = 0;
    std::memcpy(&a_front, a.data(), sizeof(Word));
    std::memcpy(&b_front, b.data(), sizeof(Word));
    std::memcpy(&a_back, a.data() + a.size() - sizeof(Word), sizeof(Word));
    std::memcpy(&b_back, b.data() + b.size() - sizeof(Word), sizeof(Word));
    return a_front == b_front && a_back == b_back;
  };
  if (a.empty() || a.size() > 16) return a == b;
  if (a.size() >= 8) return loads_agree(std::uint64_t{});
  if (a.size() >= 4) return loads_agree(std::uint32_t{});
  return loads_agree(std::uint8_t{}) && a[a.size() / 2] == b[b.size() / 2];
}

}  // namespace pear
