// The cells of a sheet in Office Open XML (ECMA-376, part 1, 18.3.1).
#pragma once

#include <memory>
#include <vector>

#include "sources/spreadsheet/cell_values.hpp"
#include "sources/spreadsheet/shared_strings.hpp"
#include "sources/spreadsheet/workbook.hpp"

namespace pear::sources {

/// What the cells of a workbook refer to. Borrowed.
struct CellContext {
  const SharedStrings* strings = nullptr;
  const std::vector<CellFormat>* formats = nullptr;  ///< by style
  bool from_1904 = false;
};

/// Errors: those of the member.
[[nodiscard]] OrError<std::unique_ptr<Sheet>> open_xlsx_sheet(ZipMember member, CellContext context);

}  // namespace pear::sources
