#include "base/text_array.hpp"

#include <utility>

namespace pear {

void TextArray::append(const TextArray& other) {
  const std::uint64_t before = bytes_.size();
  const std::size_t size = ends_.size();
  bytes_.append(other.bytes_);
  ends_.resize(size + other.ends_.size());
  for (std::size_t i = 0; i < other.ends_.size(); ++i) ends_[size + i] = before + other.ends_[i];
}

TextArray TextArray::joined(std::span<const TextArray> parts) {
  std::size_t texts = 0, bytes = 0;
  for (const TextArray& part : parts) {
    texts += part.ends_.size();
    bytes += part.bytes_.size();
  }
  TextArray all;
  all.reserve(texts, bytes);
  for (const TextArray& part : parts) all.append(part);
  return all;
}

TextArray TextArray::of_lengths(std::string bytes, std::span<const std::uint32_t> lengths) {
  TextArray texts;
  texts.bytes_ = std::move(bytes);
  texts.ends_.reserve(lengths.size());
  std::uint64_t end = 0;
  for (const std::uint32_t length : lengths) texts.ends_.push_back(end += length);
  return texts;
}

TextArray TextArray::picked(const std::vector<std::uint32_t>& positions) const {
  TextArray result;
  result.reserve(positions.size(), bytes_.size());
  for (const std::uint32_t position : positions) result.push_back((*this)[position]);
  return result;
}

}  // namespace pear
