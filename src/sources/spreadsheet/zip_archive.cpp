#include "sources/spreadsheet/zip_archive.hpp"

#include <algorithm>
#include <filesystem>
#include <zip.h>

#include <fmt/format.h>

#include "base/text.hpp"

namespace pear::sources {
namespace {

tl::unexpected<Error> damaged(const std::string& archive, std::string_view reason) {
  return data_error(
      fmt::format("the compressed data of {} is damaged ({}). Get the file again.", archive, reason));
}

}  // namespace

void ZipMember::Close::operator()(zip_file* file) const { zip_fclose(file); }
void ZipArchive::Close::operator()(zip* archive) const { zip_discard(archive); }

OrError<std::size_t> ZipMember::read(std::span<char> into) {
  const zip_int64_t count = zip_fread(file_.get(), into.data(), into.size());
  if (count < 0) return damaged(archive_, zip_file_strerror(file_.get()));
  bytes_read_ += static_cast<std::uint64_t>(count);
  if (bytes_read_ > most_bytes_)
    return data_error(fmt::format(
        "the compressed data of {} expands to more than {} bytes, which no spreadsheet needs. If that is "
        "right, allow it with --max-expansion N.",
        archive_, with_thousands(static_cast<std::int64_t>(most_bytes_))));
  return static_cast<std::size_t>(count);
}

OrError<ZipArchive> ZipArchive::open(const std::string& path, std::uint64_t largest_expansion) {
  int code = 0;
  zip* archive = zip_open(path.c_str(), ZIP_RDONLY, &code);
  if (archive == nullptr) {
    zip_error_t error;
    zip_error_init_with_code(&error, code);
    const std::string reason = zip_error_strerror(&error);
    const bool system = zip_error_system_type(&error) == ZIP_ET_SYS;
    zip_error_fini(&error);
    if (system) return io_error(fmt::format("cannot open {}: {}", path, reason));
    return damaged(path, reason);
  }
  constexpr std::uint64_t kAlwaysAllowed = 1'000'000'000;
  std::error_code ignored;
  const std::uint64_t size = std::filesystem::file_size(path, ignored);
  std::uint64_t most = 0;
  if (__builtin_mul_overflow(size, largest_expansion, &most)) most = INT64_MAX;
  return ZipArchive(path, archive, std::max(most, kAlwaysAllowed));
}

bool ZipArchive::has(const std::string& name) const {
  return zip_name_locate(archive_.get(), name.c_str(), 0) >= 0;
}

OrError<ZipMember> ZipArchive::member(const std::string& name) const {
  zip_file* file = zip_fopen(archive_.get(), name.c_str(), 0);
  if (file == nullptr) return damaged(path_, fmt::format("{}: {}", name, zip_strerror(archive_.get())));
  return ZipMember(file, path_, most_bytes_);
}

}  // namespace pear::sources
