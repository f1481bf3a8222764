#include "sources/spreadsheet/workbook.hpp"

#include <fmt/format.h>

namespace pear::sources {

OrError<void> parse_elements(std::string& xml, pugi::xml_document& into) {
  constexpr unsigned kFlags = pugi::parse_fragment | pugi::parse_cdata | pugi::parse_escapes |
                              pugi::parse_ws_pcdata_single | pugi::parse_embed_pcdata;
  const auto parsed = into.load_buffer_inplace(xml.data(), xml.size(), kFlags, pugi::encoding_utf8);
  if (parsed) return {};
  return data_error(parsed.description());
}

OrError<void> parse_member(const ZipArchive& archive, const std::string& name, pugi::xml_document& into) {
  PEAR_ASSIGN(ZipMember member, archive.member(name));
  constexpr std::size_t kBlock = std::size_t{1} << 16U, kLargest = std::size_t{64} << 20U;
  std::string xml;
  for (std::size_t count = kBlock; count > 0 && xml.size() <= kLargest;) {
    const std::size_t before = xml.size();
    xml.resize(before + kBlock);
    PEAR_ASSIGN(count, member.read({xml.data() + before, kBlock}));
    xml.resize(before + count);
  }
  const auto parsed = into.load_buffer(xml.data(), xml.size());
  if (parsed && xml.size() <= kLargest) return {};
  return data_error(fmt::format("{} is damaged: {}: {}. Save the workbook again.", archive.path(), name,
                                parsed ? "longer than 64 MiB" : parsed.description()));
}

std::string_view local_name(const char* name) {
  const std::string_view whole = name;
  return whole.substr(whole.find(':') + 1);
}

}  // namespace pear::sources
