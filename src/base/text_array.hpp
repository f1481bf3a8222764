// Many short texts in one block of memory.
#pragma once

#include <cstdint>
#include <span>
#include <string>
#include <string_view>
#include <vector>

namespace pear {

/// A growing array of texts: all bytes in one block, and the end of each text. The overhead is about 8 bytes
/// a text. Views stay valid until the next push_back. Several threads may call const methods at once.
class TextArray {
 public:
  [[nodiscard]] std::size_t size() const { return ends_.size(); }
  [[nodiscard]] bool empty() const { return ends_.empty(); }

  [[nodiscard]] std::string_view operator[](std::size_t index) const {
    const std::uint64_t begin = index == 0 ? 0 : ends_[index - 1];
    return {bytes_.data() + begin, static_cast<std::size_t>(ends_[index] - begin)};
  }

  void push_back(std::string_view text) {
    bytes_.append(text);
    ends_.push_back(bytes_.size());
  }
  /// Reserves room for this many texts of this many bytes in total.
  void reserve(std::size_t texts, std::size_t bytes) {
    ends_.reserve(texts);
    bytes_.reserve(bytes);
  }

  void append(const TextArray& other);
  /// The texts of all parts, one part after another.
  [[nodiscard]] static TextArray joined(std::span<const TextArray> parts);
  /// Texts of these lengths, whose bytes follow one another. The lengths must add up to the number of bytes.
  [[nodiscard]] static TextArray of_lengths(std::string bytes, std::span<const std::uint32_t> lengths);

  /// The texts at these positions, in this order.
  [[nodiscard]] TextArray picked(const std::vector<std::uint32_t>& positions) const;

  bool operator==(const TextArray&) const = default;

 private:
  std::string bytes_;
  std::vector<std::uint64_t> ends_;
};

}  // namespace pear
