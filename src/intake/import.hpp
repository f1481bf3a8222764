// The import: a file of sales lines in, a daybook and an account of every row out.
#pragma once

#include <functional>
#include <memory>
#include <string>
#include <vector>

#include "base/error.hpp"
#include "daybook/builder.hpp"
#include "daybook/provenance.hpp"
#include "intake/header_map.hpp"
#include "intake/line_batch.hpp"
#include "sources/byte_source.hpp"

namespace pear {

/// How far the reading is: rows and bytes so far, and all bytes where known (otherwise 0).
struct ImportProgress {
  std::uint64_t rows = 0;
  std::uint64_t bytes = 0;
  std::uint64_t bytes_in_all = 0;
};

/// How often rows were kept out for one reason.
struct RejectReason {
  std::string column;
  std::string reason;
  std::uint64_t rows = 0;
  std::uint64_t first_line = 0;  ///< of the file
};

struct Imported {
  BuiltDaybook built;
  SourceRecord source;
  AmountSums sums;
  std::vector<RejectReason> reasons;  ///< most frequent first
  std::vector<std::string> notes;     ///< what was made up or decided, in sentences
};

struct ImportHooks {
  std::function<OrError<void>(const RejectedRow&)>
      reject;  ///< each row that is kept out, in order of the file
  std::function<void(const ImportProgress&)> progress;
};

/// Reads, checks and nests all lines. Errors: those of the source, of the header (see map_header) and of the
/// hooks; data where not one row can be used. A row that cannot be used is no error: it goes to hooks.reject.
[[nodiscard]] OrError<Imported> import_lines(std::unique_ptr<ByteSource> source,
                                             const std::vector<RoleAssignment>& assignments,
                                             const ImportHooks& hooks);

}  // namespace pear
