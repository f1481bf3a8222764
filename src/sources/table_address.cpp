#include "sources/table_address.hpp"

#include <filesystem>

namespace pear::sources {

TableAddress file_address(const std::string& word) {
  constexpr std::string_view kSheet = "?sheet=";
  TableAddress address;
  address.file = word;
  std::error_code ignored;
  const std::size_t at = word.rfind(kSheet);
  if (at == std::string::npos || std::filesystem::exists(word, ignored)) return address;
  address.file = word.substr(0, at);
  address.sheet = word.substr(at + kSheet.size());
  return address;
}

}  // namespace pear::sources
