#include "sources/file_kind.hpp"

#include <array>
#include <filesystem>
#include <fstream>

#include <fmt/format.h>

namespace pear::sources {
namespace {

struct Signature {
  std::string_view front;
  std::string_view what, remedy;
};
constexpr std::string_view kArchive = "PK\x03\x04";
using namespace std::string_view_literals;
constexpr std::string_view kExport = "Export the table as .csv or .xlsx.";
constexpr std::array kSignatures = {
    Signature{kArchive, "a zip archive or a spreadsheet",
              "Save it as a file first; it cannot be read from a pipe."},
    Signature{"PK\x05\x06", "an empty zip archive", "Get the file again."},
    Signature{"\xD0\xCF\x11\xE0", "an old workbook (.xls) or one with a password",
              "Save it as .xlsx or .csv, without a password."},
    Signature{"%PDF-", "a PDF document", kExport},
    Signature{"\x89PNG", "an image (PNG)", kExport},
    Signature{"\xFF\xD8\xFF", "an image (JPEG)", kExport},
    Signature{"GIF87a", "an image (GIF)", kExport},
    Signature{"GIF89a", "an image (GIF)", kExport},
    Signature{"II*\0"sv, "an image (TIFF)", kExport},
    Signature{"MM\0*"sv, "an image (TIFF)", kExport},
    Signature{"{\\rtf", "a text document (RTF)", kExport},
    Signature{"7z\xBC\xAF", "a 7z archive", "Unpack it and name the files in it."},
    Signature{"Rar!", "a RAR archive", "Unpack it and name the files in it."},
    Signature{"\xFD"
              "7zXZ",
              "compressed by xz", "Decompress it, or compress it by gzip or zstd."},
    Signature{"BZh91AY&SY", "compressed by bzip2", "Decompress it, or compress it by gzip or zstd."},
    Signature{"PAR1\x15", "a Parquet file", kExport},
    Signature{"SQLite format 3\0"sv, "an SQLite database or a daybook",
              "In an intake file, read it with database = and table = instead of file =; or inspect "
              "sqlite:///PATH."},
};

const Signature* signature_of(std::string_view front) {
  for (const Signature& each : kSignatures) {
    if (front.starts_with(each.front)) return &each;
  }
  return nullptr;
}

}  // namespace

FileKind kind_of(std::string_view front) {
  const Signature* found = signature_of(front);
  if (found == nullptr) return FileKind::text;
  return found->front == kArchive ? FileKind::archive : FileKind::other;
}

OrError<void> check_is_text(std::string_view front, const std::string& name) {
  const Signature* found = signature_of(front);
  if (found == nullptr) return {};
  return data_error(
      fmt::format("{} is {}, not a text file with a table. {}", name, found->what, found->remedy));
}

std::string front_of_file(const std::string& path) {
  std::error_code ignored;
  if (!std::filesystem::is_regular_file(path, ignored)) return "";
  std::string front(16, '\0');
  std::ifstream file(path, std::ios::binary);
  file.read(front.data(), static_cast<std::streamsize>(front.size()));
  front.resize(static_cast<std::size_t>(file.gcount()));
  return front;
}

}  // namespace pear::sources
