// datapackage.json: the tables of a folder, described by an open standard (Data Package).
#pragma once

#include <string>
#include <vector>

#include "base/error.hpp"
#include "files/atomic_file.hpp"
#include "result/result.hpp"

namespace pear::output {

/// How a result was computed.
struct Trail {
  std::string command_line;
  std::string daybook;      ///< path as given
  std::string fingerprint;  ///< of the daybook
  std::string selection;    ///< in words
};

/// FOLDER/datapackage.json with the result's tables (if they exist as CSV) and trail instead of those of the
/// same stem or the same files, and with all others; yet to be committed. Lock the folder before and until
/// then. Errors: data if a file of that name is not a Data Package; io.
[[nodiscard]] OrError<files::AtomicFile> describe_in_package(const result::Result& result, const Trail& trail,
                                                             const std::string& folder,
                                                             const std::string& stem, bool has_tables);

/// The name of a table's or figure's file, without folder and extension.
[[nodiscard]] std::string file_stem(const std::string& stem, const std::string& part);

}  // namespace pear::output
