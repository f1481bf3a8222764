#include "base/text_array.hpp"

namespace pear {

void TextArray::append(const TextArray& other) {
  const std::uint64_t before = bytes_.size();
  bytes_.append(other.bytes_);
  ends_.reserve(ends_.size() + other.ends_.size());
  for (const std::uint64_t end : other.ends_) ends_.push_back(before + end);
}

TextArray TextArray::picked(const std::vector<std::uint32_t>& positions) const {
  TextArray result;
  result.reserve(positions.size(), bytes_.size());
  for (const std::uint32_t position : positions) result.push_back((*this)[position]);
  return result;
}

}  // namespace pear
