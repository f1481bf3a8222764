#include "sources/spreadsheet/xlsx.hpp"

#include <map>
#include <utility>

#include <fmt/format.h>

#include "sources/spreadsheet/element_chunks.hpp"
#include "sources/spreadsheet/shared_strings.hpp"
#include "sources/spreadsheet/xlsx_sheet.hpp"

namespace pear::sources {
namespace {

/// The path in the archive of a target, relative to the folder of `from` unless it begins with a slash.
std::string resolved(const std::string& from, std::string target) {
  if (target.starts_with('/')) return target.substr(1);
  std::string folder = from.substr(0, from.rfind('/') + 1);
  while (target.starts_with("../") && !folder.empty()) {
    target.erase(0, 3);
    folder.pop_back();
    folder.erase(folder.rfind('/') + 1);
  }
  return folder + target;
}

struct Relationship {
  std::string id, kind, target;  ///< the kind is the last part of its type: "worksheet"
};

/// The parts that a part of the package refers to.
OrError<std::vector<Relationship>> relationships_of(const ZipArchive& archive, const std::string& part) {
  const std::size_t slash = part.rfind('/') + 1;
  const std::string name = part.substr(0, slash) + "_rels/" + part.substr(slash) + ".rels";
  std::vector<Relationship> found;
  if (!archive.has(name)) return found;
  pugi::xml_document document;
  PEAR_TRY(parse_member(archive, name, document));
  for (const pugi::xml_node each : document.first_child().children()) {
    const std::string_view type = each.attribute("Type").value();
    found.push_back({each.attribute("Id").value(), std::string(type.substr(type.rfind('/') + 1)),
                     resolved(part, each.attribute("Target").value())});
  }
  return found;
}

/// The target of the first relationship of a kind; empty if there is none.
std::string target_of(const std::vector<Relationship>& relationships, std::string_view kind) {
  for (const Relationship& each : relationships) {
    if (each.kind == kind) return each.target;
  }
  return "";
}

pugi::xml_node child_named(pugi::xml_node parent, std::string_view name) {
  return parent.find_child([&](pugi::xml_node child) { return local_name(child.name()) == name; });
}

std::string_view value_of(pugi::xml_node node, std::string_view attribute) {
  return node.find_attribute([&](pugi::xml_attribute each) { return local_name(each.name()) == attribute; })
      .value();
}

/// By style of cells, what it makes of numbers.
OrError<std::vector<CellFormat>> formats_of(const ZipArchive& archive, const std::string& part) {
  std::vector<CellFormat> formats;
  if (part.empty()) return formats;
  pugi::xml_document document;
  PEAR_TRY(parse_member(archive, part, document));
  const pugi::xml_node styles = document.document_element();
  std::map<unsigned, CellFormat> codes;
  for (const pugi::xml_node format : child_named(styles, "numFmts").children())
    codes[format.attribute("numFmtId").as_uint()] = format_of_code(format.attribute("formatCode").value());
  for (const pugi::xml_node style : child_named(styles, "cellXfs").children()) {
    const unsigned number = style.attribute("numFmtId").as_uint();
    const auto code = codes.find(number);
    formats.push_back(code == codes.end() ? format_of_builtin(number) : code->second);
  }
  return formats;
}

struct Parts {
  std::vector<std::string> names, paths;  ///< of sheets
  std::string strings, styles;
  bool from_1904 = false;
};

class Xlsx final : public Workbook {
 public:
  Xlsx(const ZipArchive& archive, Parts parts) : archive_(archive), parts_(std::move(parts)) {}
  [[nodiscard]] const std::vector<std::string>& sheets() const override { return parts_.names; }
  OrError<std::unique_ptr<Sheet>> open(std::size_t position) override {
    if (!parts_.strings.empty()) {
      PEAR_ASSIGN(strings_, SharedStrings::read(archive_, parts_.strings));
    }
    PEAR_ASSIGN(formats_, formats_of(archive_, parts_.styles));
    PEAR_ASSIGN(ZipMember member, archive_.member(parts_.paths[position]));
    return open_xlsx_sheet(std::move(member), {&strings_, &formats_, parts_.from_1904});
  }

 private:
  const ZipArchive& archive_;
  Parts parts_;
  SharedStrings strings_;
  std::vector<CellFormat> formats_;
};

}  // namespace

bool is_xlsx(const ZipArchive& archive) {
  return archive.has("_rels/.rels") && archive.has("xl/workbook.xml");
}

OrError<std::unique_ptr<Workbook>> open_xlsx(const ZipArchive& archive) {
  PEAR_ASSIGN(const auto package, relationships_of(archive, ""));
  const std::string workbook = target_of(package, "officeDocument");
  pugi::xml_document document;
  PEAR_TRY(parse_member(archive, workbook, document));
  PEAR_ASSIGN(const auto relationships, relationships_of(archive, workbook));
  Parts parts;
  parts.strings = target_of(relationships, "sharedStrings");
  parts.styles = target_of(relationships, "styles");
  const std::string_view epoch = value_of(child_named(document.document_element(), "workbookPr"), "date1904");
  parts.from_1904 = epoch == "1" || epoch == "true";
  for (const pugi::xml_node sheet : child_named(document.document_element(), "sheets").children()) {
    const std::string_view id = value_of(sheet, "id");
    for (const Relationship& each : relationships) {
      if (each.id != id || each.kind != "worksheet") continue;
      parts.names.emplace_back(value_of(sheet, "name"));
      parts.paths.push_back(each.target);
    }
  }
  return std::make_unique<Xlsx>(archive, std::move(parts));
}

}  // namespace pear::sources
