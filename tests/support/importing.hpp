// Imports in tests: from a text or an intake file to the daybook and all reports.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "intake/import.hpp"
#include "support/temporary_folder.hpp"

namespace pear::test {

struct ImportRun {
  std::optional<intake::Imported> imported;
  std::vector<intake::RejectedRow> rejected;
  std::vector<intake::ChangedCell> changed;
  std::string fault;  ///< without the folder's path
  ErrorKind kind = ErrorKind::internal;
};

/// One flat file of lines.
[[nodiscard]] ImportRun import_text(const std::string& text,
                                    std::vector<std::pair<std::string, std::string>> columns = {});

/// An intake file over the files of the folder.
[[nodiscard]] ImportRun import_intake(const TemporaryFolder& folder, const std::string& intake);

/// A column of a daybook as texts, in order of its members; "(none)" if there is no such column.
[[nodiscard]] std::string column_text(const daybook::Daybook& daybook, std::string_view name);

/// All columns by name, as texts: for daybooks whose columns may be in another order.
[[nodiscard]] std::string columns_by_name(const daybook::Daybook& daybook,
                                          const std::vector<std::string>& names);

}  // namespace pear::test
