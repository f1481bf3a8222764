#include "sources/byte_source.hpp"

#include <array>
#include <cerrno>
#include <cstring>
#include <string_view>
#include <utility>
#include <vector>

#include <fcntl.h>
#include <fmt/format.h>
#include <sys/stat.h>
#include <unistd.h>
#include <xxhash.h>
#include <zlib.h>
#include <zstd.h>

#include "base/text.hpp"

namespace pear::sources {
namespace {

constexpr std::size_t kBlock = std::size_t{1} << 18U;

/// The file itself. Keeps its first bytes until they are read, so that its kind can be detected.
class RawBytes final : public ByteSource {
 public:
  RawBytes(std::string name, int descriptor) : name_(std::move(name)), descriptor_(descriptor) {
    XXH3_128bits_reset(hash_.get());
    struct stat status {};
    if (fstat(descriptor_, &status) == 0 && S_ISREG(status.st_mode))
      in_all_ = static_cast<std::uint64_t>(status.st_size);
  }
  ~RawBytes() override {
    if (descriptor_ != STDIN_FILENO) close(descriptor_);
  }

  OrError<std::string_view> peek(std::size_t count) {
    while (peeked_.size() < count) {
      std::array<char, 16> some{};
      PEAR_ASSIGN(const std::size_t got, from_disk(std::span(some).first(count - peeked_.size())));
      if (got == 0) break;
      peeked_.append(some.data(), got);
    }
    return peeked_;
  }

  OrError<std::size_t> read(std::span<char> into) override {
    if (peeked_.empty()) return from_disk(into);
    const std::size_t count = std::min(into.size(), peeked_.size());
    std::memcpy(into.data(), peeked_.data(), count);
    peeked_.erase(0, count);
    return count;
  }

  [[nodiscard]] const std::string& name() const override { return name_; }
  [[nodiscard]] std::uint64_t bytes_taken() const override { return taken_; }
  [[nodiscard]] std::optional<std::uint64_t> bytes_in_all() const override { return in_all_; }
  [[nodiscard]] std::string content_hash() const override {
    const XXH128_hash_t hash = XXH3_128bits_digest(hash_.get());
    return fmt::format("{:016x}{:016x}", hash.high64, hash.low64);
  }

 private:
  OrError<std::size_t> from_disk(std::span<char> into) {
    for (;;) {
      const ssize_t got = ::read(descriptor_, into.data(), into.size());
      if (got < 0 && errno == EINTR) continue;
      if (got < 0) return io_error(fmt::format("cannot read {}: {}", name_, std::strerror(errno)));
      taken_ += static_cast<std::uint64_t>(got);
      XXH3_128bits_update(hash_.get(), into.data(), static_cast<std::size_t>(got));
      return static_cast<std::size_t>(got);
    }
  }

  struct FreeState {
    void operator()(XXH3_state_t* state) const { XXH3_freeState(state); }
  };
  std::string name_;
  int descriptor_;
  std::string peeked_;
  std::uint64_t taken_ = 0;
  std::optional<std::uint64_t> in_all_;
  std::unique_ptr<XXH3_state_t, FreeState> hash_{XXH3_createState()};
};

/// The common part of both kinds of compressed source: a window of compressed bytes, refilled from the file.
class CompressedBytes : public ByteSource {
 public:
  CompressedBytes(std::unique_ptr<RawBytes> raw, std::uint64_t largest_expansion)
      : raw_(std::move(raw)), largest_expansion_(largest_expansion), window_(kBlock) {}
  [[nodiscard]] const std::string& name() const override { return raw_->name(); }
  [[nodiscard]] std::uint64_t bytes_taken() const override { return raw_->bytes_taken(); }
  [[nodiscard]] std::optional<std::uint64_t> bytes_in_all() const override { return raw_->bytes_in_all(); }
  [[nodiscard]] std::string content_hash() const override { return raw_->content_hash(); }

 protected:
  /// Refills the window if it is used up; false at the end of the file.
  OrError<bool> refill() {
    if (!rest_.empty()) return true;
    PEAR_ASSIGN(const std::size_t got, raw_->read(window_));
    rest_ = std::span(window_).first(got);
    return got > 0;
  }
  [[nodiscard]] tl::unexpected<Error> cut_short() const {
    return data_error(
        fmt::format("{} ends in the middle of its compressed data. Get the file again.", name()));
  }
  [[nodiscard]] tl::unexpected<Error> damaged(std::string_view reason) const {
    return data_error(
        fmt::format("the compressed data of {} is damaged ({}). Get the file again.", name(), reason));
  }

  /// Counts bytes that came out of the decompression, and returns them.
  OrError<std::size_t> expanded(std::size_t bytes) {
    constexpr std::uint64_t kAlwaysAllowed = 1'000'000'000;
    expanded_ += bytes;
    if (expanded_ <= kAlwaysAllowed || expanded_ / largest_expansion_ <= bytes_taken()) return bytes;
    return data_error(fmt::format(
        "the compressed data of {} expands to more than {} times its size. If that is right, allow it with "
        "--max-expansion N.",
        name(), with_thousands(static_cast<std::int64_t>(largest_expansion_))));
  }

  std::span<char> rest_;  // compressed bytes not used yet

 private:
  std::unique_ptr<RawBytes> raw_;
  std::uint64_t largest_expansion_;
  std::uint64_t expanded_ = 0;
  std::vector<char> window_;
};

class GzipBytes final : public CompressedBytes {
 public:
  GzipBytes(std::unique_ptr<RawBytes> raw, std::uint64_t largest_expansion)
      : CompressedBytes(std::move(raw), largest_expansion) {
    constexpr int kGzipWindow = 15 + 16;
    inflateInit2(&stream_, kGzipWindow);
  }
  ~GzipBytes() override { inflateEnd(&stream_); }

  OrError<std::size_t> read(std::span<char> into) override {
    for (;;) {
      PEAR_ASSIGN(const bool more, refill());
      if (!more) {
        if (!member_ended_) return cut_short();
        return 0;
      }
      stream_.next_in = reinterpret_cast<Bytef*>(rest_.data());
      stream_.avail_in = static_cast<uInt>(rest_.size());
      stream_.next_out = reinterpret_cast<Bytef*>(into.data());
      stream_.avail_out = static_cast<uInt>(into.size());
      member_ended_ = false;
      const int status = inflate(&stream_, Z_NO_FLUSH);
      rest_ = rest_.last(stream_.avail_in);
      if (status != Z_OK && status != Z_STREAM_END && status != Z_BUF_ERROR)
        return damaged(stream_.msg != nullptr ? stream_.msg : "not gzip data");
      if (status == Z_STREAM_END) {  // another member may follow
        member_ended_ = true;
        inflateReset(&stream_);
      }
      if (const std::size_t made = into.size() - stream_.avail_out; made > 0) return expanded(made);
    }
  }

 private:
  z_stream stream_{};
  bool member_ended_ = false;
};

class ZstdBytes final : public CompressedBytes {
 public:
  ZstdBytes(std::unique_ptr<RawBytes> raw, std::uint64_t largest_expansion)
      : CompressedBytes(std::move(raw), largest_expansion) {}

  OrError<std::size_t> read(std::span<char> into) override {
    for (;;) {
      PEAR_ASSIGN(const bool more, refill());
      if (!more && frame_ended_) return 0;
      ZSTD_inBuffer in{rest_.data(), rest_.size(), 0};
      ZSTD_outBuffer out{into.data(), into.size(), 0};
      const std::size_t status = ZSTD_decompressStream(stream_.get(), &out, &in);
      if (ZSTD_isError(status) != 0) return damaged(ZSTD_getErrorName(status));
      rest_ = rest_.subspan(in.pos);
      frame_ended_ = status == 0;
      if (out.pos > 0) return expanded(out.pos);
      if (!more) return cut_short();
    }
  }

 private:
  struct FreeStream {
    void operator()(ZSTD_DStream* stream) const { ZSTD_freeDStream(stream); }
  };
  std::unique_ptr<ZSTD_DStream, FreeStream> stream_{ZSTD_createDStream()};
  bool frame_ended_ = false;
};

}  // namespace

OrError<std::unique_ptr<ByteSource>> open_bytes(const std::string& path, std::uint64_t largest_expansion) {
  const bool standard_input = path == "-";
  const int descriptor = standard_input ? STDIN_FILENO : ::open(path.c_str(), O_RDONLY | O_CLOEXEC);
  if (descriptor < 0) return io_error(fmt::format("cannot open {}: {}", path, std::strerror(errno)));
  auto raw = std::make_unique<RawBytes>(standard_input ? "standard input" : path, descriptor);
  PEAR_ASSIGN(const std::string_view first, raw->peek(4));
  if (first.starts_with("\x1f\x8b")) return std::make_unique<GzipBytes>(std::move(raw), largest_expansion);
  if (first.starts_with("\x28\xb5\x2f\xfd"))
    return std::make_unique<ZstdBytes>(std::move(raw), largest_expansion);
  return raw;
}

}  // namespace pear::sources
