#include "sources/first_rows.hpp"

#include <filesystem>
#include <utility>

#include "sources/file_kind.hpp"
#include "sources/spreadsheet/sheet_reader.hpp"

namespace pear::sources {
namespace {

constexpr std::size_t kFrontBytes = std::size_t{1} << 16U;

OrError<std::vector<PlainRow>> rows_of_text(const TableAddress& address, std::size_t most) {
  PEAR_ASSIGN(const TextSource source, open_text(address.file, address.encoding, address.largest_expansion));
  std::string text(kFrontBytes, '\0');
  std::size_t size = 0;
  for (std::size_t count = 1; count > 0 && size < text.size(); size += count) {
    PEAR_ASSIGN(count, source.bytes->read({text.data() + size, text.size() - size}));
  }
  text.resize(size);
  const std::string_view front = without_byte_order_mark(text);
  return split_rows(front, address.delimiter ? CsvFormat{*address.delimiter} : detect_format(front), most);
}

}  // namespace

OrError<std::vector<PlainRow>> first_rows(const TableAddress& address, std::size_t most) {
  std::error_code ignored;
  if (!std::filesystem::is_regular_file(address.file, ignored)) return std::vector<PlainRow>{};
  if (kind_of(front_of_file(address.file)) == FileKind::archive)
    return SheetReader::first_rows(address, most);
  return rows_of_text(address, most);
}

}  // namespace pear::sources
