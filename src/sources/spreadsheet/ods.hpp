// Spreadsheets in OpenDocument (ISO/IEC 26300), .ods.
#pragma once

#include <memory>

#include "sources/spreadsheet/workbook.hpp"

namespace pear::sources {

/// Whether the archive contains such a spreadsheet.
[[nodiscard]] bool is_ods(const ZipArchive& archive);

/// Reads its list of sheets, for which all sheets are decompressed. Borrows the archive. Errors: those of the
/// archive.
[[nodiscard]] OrError<std::unique_ptr<Workbook>> open_ods(const ZipArchive& archive);

}  // namespace pear::sources
