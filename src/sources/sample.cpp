#include "sources/sample.hpp"

#include <algorithm>
#include <cstring>
#include <filesystem>
#include <fstream>
#include <utility>

namespace pear::sources {
namespace {

/// Bytes that are in memory already.
class HeldBytes final : public ByteSource {
 public:
  HeldBytes(std::string name, std::string bytes) : name_(std::move(name)), bytes_(std::move(bytes)) {}
  OrError<std::size_t> read(std::span<char> into) override {
    const std::size_t count = std::min(into.size(), bytes_.size() - at_);
    std::memcpy(into.data(), bytes_.data() + at_, count);
    at_ += count;
    return count;
  }
  const std::string& name() const override { return name_; }
  std::uint64_t bytes_taken() const override { return at_; }
  std::optional<std::uint64_t> bytes_in_all() const override { return bytes_.size(); }
  std::string content_hash() const override { return ""; }

 private:
  std::string name_;
  std::string bytes_;
  std::size_t at_ = 0;
};

bool is_compressed(std::string_view front) {
  return front.starts_with("\x1F\x8B") || front.starts_with("\x28\xB5\x2F\xFD");
}

/// Up to `count` bytes from `begin` on, without the broken lines at their ends.
std::string piece(std::ifstream& file, std::uint64_t begin, std::uint64_t count) {
  std::string text(count, '\0');
  file.clear();
  file.seekg(static_cast<std::streamoff>(begin));
  file.read(text.data(), static_cast<std::streamsize>(count));
  text.resize(static_cast<std::size_t>(file.gcount()));
  const std::size_t first = begin == 0 ? 0 : text.find('\n') + 1;
  const std::size_t last = text.rfind('\n');
  return last == std::string::npos || first > last ? std::string() : text.substr(first, last + 1 - first);
}

}  // namespace

OrError<Sample> open_sample(const TableAddress& address) {
  std::error_code failure;
  const auto size = address.file.empty() ? 0 : std::filesystem::file_size(address.file, failure);
  const bool small = failure || size <= kLookedAtWhole;
  std::string front;
  if (!small) {
    std::ifstream file(address.file, std::ios::binary);
    front.resize(4);
    file.read(front.data(), 4);
  }
  const bool wide = front.starts_with("\xFF\xFE") || front.starts_with("\xFE\xFF");
  if (small || is_compressed(front) || wide) {
    PEAR_ASSIGN(TableReader reader, TableReader::open(address));
    return Sample{std::move(reader), true};
  }
  std::ifstream file(address.file, std::ios::binary);
  const std::uint64_t part = kLookedAtWhole / 3;
  std::string text = piece(file, 0, part);
  text += piece(file, size / 2 - part / 2, part);
  text += piece(file, size - part, part);
  EncodingWitness witness;
  witness.see(text);
  const Encoding encoding = address.encoding.value_or(witness.verdict());
  auto bytes = decoded(std::make_unique<HeldBytes>(address.file, std::move(text)), encoding);
  PEAR_ASSIGN(TableReader reader, TableReader::over(std::move(bytes), encoding, address));
  return Sample{std::move(reader), false};
}

}  // namespace pear::sources
