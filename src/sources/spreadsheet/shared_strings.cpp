#include "sources/spreadsheet/shared_strings.hpp"

#include <charconv>

#include <fmt/format.h>

#include "sources/spreadsheet/element_chunks.hpp"

namespace pear::sources {
namespace {

void add_texts(pugi::xml_node node, std::string& text) {
  for (const pugi::xml_node child : node.children()) {
    const std::string_view name = local_name(child.name());
    if (name == "t") text += child.child_value();
    if (name == "r") add_texts(child, text);  // a run of one style, which contains no other
  }
}

}  // namespace

std::string rich_text(pugi::xml_node node) {
  std::string text;
  add_texts(node, text);
  return text.find("_x") == std::string::npos ? text : without_escapes(text);
}

std::string without_escapes(std::string_view text) {
  std::string plain;
  for (std::size_t at = 0; at < text.size();) {
    constexpr std::size_t kEscape = 7;
    const std::string_view escape = text.substr(at, kEscape);
    unsigned code = 0;
    const bool is_escape =
        escape.size() == kEscape && escape.starts_with("_x") && escape.back() == '_' &&
        std::from_chars(escape.data() + 2, escape.data() + 6, code, 16).ptr == escape.data() + 6 &&
        code < 0x80;
    plain += is_escape ? static_cast<char>(code) : text[at];
    at += is_escape ? kEscape : 1;
  }
  return plain;
}

OrError<SharedStrings> SharedStrings::read(const ZipArchive& archive, const std::string& part) {
  PEAR_ASSIGN(ZipMember member, archive.member(part));
  ElementChunks chunks(std::move(member));
  SharedStrings strings;
  PEAR_ASSIGN(const bool any, chunks.enter("sst", "si"));
  if (!any) return strings;
  for (;;) {
    PEAR_ASSIGN(auto chunk, chunks.next());
    if (!chunk) return strings;
    pugi::xml_document document;
    if (const auto parsed = parse_elements(*chunk, document); !parsed)
      return data_error(fmt::format("{} is damaged: {}: {}. Save the workbook again.", archive.path(), part,
                                    parsed.error().message));
    for (const pugi::xml_node item : document.children()) {
      strings.bytes_ += rich_text(item);
      strings.ends_.push_back(strings.bytes_.size());
    }
  }
}

}  // namespace pear::sources
