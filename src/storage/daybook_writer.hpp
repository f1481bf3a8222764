// Writes a daybook to its file.
#pragma once

#include <functional>
#include <string>
#include <utility>
#include <vector>

#include "base/error.hpp"
#include "daybook/daybook.hpp"
#include "daybook/member_list.hpp"
#include "daybook/provenance.hpp"
#include "files/atomic_file.hpp"
#include "storage/runs/merged_sales.hpp"
#include "storage/sqlite.hpp"

namespace pear::storage {

/// A daybook that is written next to the old one, and replaces it at the end. While it exists, no other
/// program writes this daybook: take it before reading the old one.
class DaybookTarget {
 public:
  /// Waits for another writer. Error: io, also if that takes too long.
  [[nodiscard]] static OrError<DaybookTarget> lock(const std::string& path,
                                                   const files::Waiting& waiting = {});
  /// Writes and syncs everything, still under the hidden name; `waiting`: members without a line. Returns the
  /// daybook's fingerprint. Errors: io.
  [[nodiscard]] OrError<std::string> write(const daybook::Daybook& daybook,
                                           const daybook::Provenance& provenance,
                                           const std::vector<daybook::MemberList>& waiting = {});
  /// The same for sales that are not in memory as a whole; `built` is what MergedSales::take_built() gave.
  [[nodiscard]] OrError<std::string> write(const MergedSales& sales, const daybook::Daybook& built,
                                           const daybook::Provenance& provenance,
                                           const std::vector<daybook::MemberList>& waiting = {},
                                           const ShowProgress& progress = ignored_progress);
  /// Renames it over the old one. Errors: io; the old file, if there is one, is unchanged then.
  [[nodiscard]] OrError<void> commit() { return file_.commit(); }

 private:
  explicit DaybookTarget(files::AtomicFile file) : file_(std::move(file)) {}
  using WriteSales = std::function<OrError<std::string>(sqlite::Database&)>;
  [[nodiscard]] OrError<std::string> write_with(const WriteSales& write_sales,
                                                const std::vector<daybook::MemberList>& waiting);
  files::AtomicFile file_;
};

/// All three steps.
[[nodiscard]] OrError<std::string> write_daybook(const std::string& path, const daybook::Daybook& daybook,
                                                 const daybook::Provenance& provenance);

}  // namespace pear::storage
