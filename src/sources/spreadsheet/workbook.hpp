// What the formats of spreadsheets have in common.
#pragma once

#include <cstdint>
#include <memory>
#include <optional>
#include <pugixml.hpp>
#include <string>
#include <string_view>
#include <vector>

#include "base/error.hpp"
#include "sources/spreadsheet/sheet_rows.hpp"
#include "sources/spreadsheet/zip_archive.hpp"

namespace pear::sources {

/// Rows of a sheet, as XML.
struct SheetPart {
  std::string xml;
  std::uint64_t rows_before = 0;
};

class Sheet {
 public:
  virtual ~Sheet() = default;
  /// The next rows, nothing after the last. Errors: those of the archive.
  [[nodiscard]] virtual OrError<std::optional<SheetPart>> next() = 0;
  /// Passes the cells of rows on. Several threads may call it. Error: data, in words that follow "... is
  /// damaged: ".
  [[nodiscard]] virtual OrError<void> read(SheetPart part, CellSink& into) const = 0;
};

class Workbook {
 public:
  virtual ~Workbook() = default;
  /// In order, the names of the sheets that may contain cells.
  [[nodiscard]] virtual const std::vector<std::string>& sheets() const = 0;
  /// `position` is one of theirs. The sheet borrows the workbook. Errors: those of the archive; data, for
  /// damaged XML.
  [[nodiscard]] virtual OrError<std::unique_ptr<Sheet>> open(std::size_t position) = 0;
};

/// Parses elements, one after another, in place: the document borrows the text. The text of an
/// element up to its first child is the value of its node. Error: data, with the reason.
[[nodiscard]] OrError<void> parse_elements(std::string& xml, pugi::xml_document& into);

/// A whole part of an archive. Errors: those of the member; data, for damaged XML.
[[nodiscard]] OrError<void> parse_member(const ZipArchive& archive, const std::string& name,
                                         pugi::xml_document& into);

/// "row" of "x:row"
[[nodiscard]] std::string_view local_name(const char* name);

}  // namespace pear::sources
