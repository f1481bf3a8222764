#include "sources/encoding.hpp"

#include <algorithm>
#include <array>
#include <cstring>
#include <filesystem>
#include <utility>

#include <unicode/ucnv.h>
#include <unicode/utf8.h>

#include "base/text.hpp"
#include "sources/ascii.hpp"
#include "sources/file_kind.hpp"

namespace pear::sources {
namespace {

constexpr std::array<std::pair<std::string_view, Encoding>, 6> kNames = {
    {{"UTF-8", Encoding::utf8},
     {"UTF-16", Encoding::utf16},
     {"UTF-16LE", Encoding::utf16_le},
     {"UTF-16BE", Encoding::utf16_be},
     {"Windows-1252", Encoding::windows_1252},
     {"ISO-8859-1", Encoding::iso_8859_1}}};

constexpr std::size_t kBuffer = std::size_t{1} << 18U;

/// Delivers the bytes that were read for detection, then the rest.
class ReplayedBytes final : public ByteSource {
 public:
  ReplayedBytes(std::string front, std::unique_ptr<ByteSource> rest)
      : front_(std::move(front)), rest_(std::move(rest)) {}
  OrError<std::size_t> read(std::span<char> into) override {
    if (at_ == front_.size()) return rest_->read(into);
    const std::size_t count = std::min(into.size(), front_.size() - at_);
    std::memcpy(into.data(), front_.data() + at_, count);
    at_ += count;
    return count;
  }
  const std::string& name() const override { return rest_->name(); }
  std::uint64_t bytes_taken() const override { return rest_->bytes_taken(); }
  std::optional<std::uint64_t> bytes_in_all() const override { return rest_->bytes_in_all(); }
  std::string content_hash() const override { return rest_->content_hash(); }

 private:
  std::string front_;
  std::size_t at_ = 0;
  std::unique_ptr<ByteSource> rest_;
};

class DecodedBytes final : public ByteSource {
 public:
  DecodedBytes(std::unique_ptr<ByteSource> source, Encoding encoding)
      : source_(std::move(source)), raw_(kBuffer, '\0') {
    UErrorCode status = U_ZERO_ERROR;
    from_ = ucnv_open(std::string(to_text(encoding)).c_str(), &status);
    to_ = ucnv_open("UTF-8", &status);
    if (U_FAILURE(status) != 0) throw std::logic_error("ICU lacks a converter");
  }
  ~DecodedBytes() override {
    ucnv_close(from_);
    ucnv_close(to_);
  }

  OrError<std::size_t> read(std::span<char> into) override {
    char* target = into.data();
    while (target == into.data() && !done_) {
      if (source_at_ == source_end_ && !ended_) {
        PEAR_ASSIGN(const std::size_t count, source_->read({raw_.data(), raw_.size()}));
        source_at_ = raw_.data();
        source_end_ = raw_.data() + count;
        ended_ = count == 0;
      }
      UErrorCode status = U_ZERO_ERROR;
      ucnv_convertEx(to_, from_, &target, into.data() + into.size(), &source_at_, source_end_,
                     between_.data(), &between_source_, &between_target_, between_.data() + between_.size(),
                     0, ended_ ? 1 : 0, &status);
      done_ = ended_ && status != U_BUFFER_OVERFLOW_ERROR;
    }
    return static_cast<std::size_t>(target - into.data());
  }
  const std::string& name() const override { return source_->name(); }
  std::uint64_t bytes_taken() const override { return source_->bytes_taken(); }
  std::optional<std::uint64_t> bytes_in_all() const override { return source_->bytes_in_all(); }
  std::string content_hash() const override { return source_->content_hash(); }

 private:
  std::unique_ptr<ByteSource> source_;
  std::string raw_;
  const char* source_at_ = nullptr;
  const char* source_end_ = nullptr;
  std::array<UChar, 4096> between_{};
  UChar* between_source_ = between_.data();
  UChar* between_target_ = between_.data();
  UConverter* from_ = nullptr;
  UConverter* to_ = nullptr;
  bool ended_ = false;
  bool done_ = false;
};

/// Shows the detector up to `most` bytes; returns them if they must be kept.
OrError<std::string> show(ByteSource& source, EncodingWitness& witness, std::size_t most, bool keep) {
  std::string kept;
  std::string piece(kBuffer, '\0');
  for (std::size_t seen = 0; seen < most;) {
    PEAR_ASSIGN(const std::size_t count, source.read({piece.data(), std::min(piece.size(), most - seen)}));
    if (count == 0) break;
    witness.see({piece.data(), count});
    if (keep) kept.append(piece, 0, count);
    seen += count;
  }
  return kept;
}

}  // namespace

std::string_view to_text(Encoding encoding) {
  for (const auto& [name, value] : kNames) {
    if (value == encoding) return name;
  }
  return "";
}

std::vector<std::string> encoding_names() {
  std::vector<std::string> names;
  for (const auto& [name, value] : kNames) names.emplace_back(name);
  return names;
}

std::optional<Encoding> parse_encoding(std::string_view name) {
  for (const auto& [known, value] : kNames) {
    if (snake_case(known) == snake_case(name)) return value;
  }
  return std::nullopt;
}

void EncodingWitness::see(std::string_view bytes) {
  if (front_.size() < 3) front_.append(bytes.substr(0, 3 - front_.size()));
  if (cut_.empty() && is_ascii(bytes) && bytes.find('\0') == std::string_view::npos) {
    bytes_ += bytes.size();
    return;
  }
  for (std::size_t i = 0; i < bytes.size(); ++i) {
    if (bytes[i] == '\0') ++zeros_[(bytes_ + i) % 2];
  }
  bytes_ += bytes.size();
  const std::string text = std::exchange(cut_, {}) + std::string(bytes);
  const auto* data = reinterpret_cast<const std::uint8_t*>(text.data());
  const auto size = static_cast<std::int32_t>(text.size());
  for (std::int32_t at = 0; at < size;) {
    const std::int32_t begin = at;
    UChar32 character = 0;
    U8_NEXT(data, at, size, character);
    if (character >= 0) {
      whole_ += character > 0x7F ? 1 : 0;
    } else if (at == size && size - begin < 4) {
      cut_ = text.substr(static_cast<std::size_t>(begin));
    } else {
      ++broken_;
    }
  }
}

Encoding EncodingWitness::verdict() const {
  if (front_.starts_with("\xFF\xFE")) return Encoding::utf16;
  if (front_.starts_with("\xFE\xFF")) return Encoding::utf16;
  constexpr std::uint64_t kTenth = 10;  // of all bytes are zeros, on one side: text with two bytes a letter
  if (zeros_[1] * kTenth > bytes_ && zeros_[0] * kTenth < zeros_[1]) return Encoding::utf16_le;
  if (zeros_[0] * kTenth > bytes_ && zeros_[1] * kTenth < zeros_[0]) return Encoding::utf16_be;
  const std::uint64_t broken = broken_ + cut_.size();
  return broken == 0 || broken * kTenth < whole_ ? Encoding::utf8 : Encoding::windows_1252;
}

std::unique_ptr<ByteSource> decoded(std::unique_ptr<ByteSource> source, Encoding encoding) {
  if (encoding == Encoding::utf8) return source;
  return std::make_unique<DecodedBytes>(std::move(source), encoding);
}

OrError<TextSource> open_text(const std::string& path, std::optional<Encoding> encoding,
                              std::uint64_t largest_expansion) {
  PEAR_ASSIGN(std::unique_ptr<ByteSource> source, open_bytes(path, largest_expansion));
  if (!encoding) {
    EncodingWitness witness;
    std::error_code failure;
    if (!std::filesystem::is_regular_file(path, failure)) {  // standard input, a pipe: read only once
      PEAR_ASSIGN(std::string front, show(*source, witness, kBuffer, true));
      PEAR_TRY(check_is_text(front, source->name()));
      source = std::make_unique<ReplayedBytes>(std::move(front), std::move(source));
    } else {
      constexpr std::size_t kMostLookedAt = 200'000'000;
      PEAR_ASSIGN(std::unique_ptr<ByteSource> looked_at, open_bytes(path, largest_expansion));
      PEAR_TRY(show(*looked_at, witness, kMostLookedAt, false));
    }
    encoding = witness.verdict();
  }
  return TextSource{decoded(std::move(source), *encoding), *encoding};
}

}  // namespace pear::sources
