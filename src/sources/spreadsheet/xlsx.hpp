// Workbooks in Office Open XML (ECMA-376), .xlsx and .xlsm.
#pragma once

#include <memory>

#include "sources/spreadsheet/workbook.hpp"

namespace pear::sources {

/// Whether the archive contains such a workbook.
[[nodiscard]] bool is_xlsx(const ZipArchive& archive);

/// Reads its list of sheets. Borrows the archive. Errors: those of the archive; data, for damaged XML.
[[nodiscard]] OrError<std::unique_ptr<Workbook>> open_xlsx(const ZipArchive& archive);

}  // namespace pear::sources
