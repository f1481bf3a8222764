// Sales that are imported into memory, or sorted on disk.
#pragma once

#include <memory>
#include <optional>
#include <string>

#include "base/error.hpp"
#include "cli/commands/import_run.hpp"
#include "files/scratch_folder.hpp"
#include "intake/import.hpp"
#include "result/result.hpp"
#include "storage/daybook_writer.hpp"

namespace pear::cli {

/// What an import gave. If it was asked for with a limit of memory, the sales are on disk, and the daybook of
/// `imported.built` lacks order ids and columns of lines and orders.
class ImportedSales {
 public:
  /// Errors: those of the import.
  [[nodiscard]] static OrError<ImportedSales> read(const ImportTask& task, const intake::ImportHooks& hooks);

  intake::Imported imported;
  result::Population population;

  /// Errors: io.
  [[nodiscard]] OrError<std::string> write(storage::DaybookTarget& target,
                                           const daybook::Provenance& provenance,
                                           const storage::ShowProgress& progress) const;

 private:
  [[nodiscard]] static OrError<ImportedSales> read_in_parts(const ImportTask& task,
                                                            const intake::ImportHooks& hooks);
  std::unique_ptr<files::ScratchFolder> folder_;
  std::optional<storage::MergedSales> on_disk_;
};

}  // namespace pear::cli
