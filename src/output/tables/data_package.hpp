// datapackage.json: the tables of a folder, described by an open standard (Data Package).
#pragma once

#include <string>
#include <vector>

#include "base/error.hpp"
#include "result/result.hpp"

namespace pear::output {

/// How a result was computed.
struct Trail {
  std::string command_line;
  std::string daybook;      ///< path as given
  std::string fingerprint;  ///< of the daybook
  std::string selection;    ///< in words
};

/// Adds the result's tables (if they exist as CSV) and trail to FOLDER/datapackage.json, replacing those of
/// the same stem and keeping all others. Errors: data if a file of that name is not a Data Package; io.
[[nodiscard]] OrError<void> describe_in_package(const result::Result& result, const Trail& trail,
                                                const std::string& folder, const std::string& stem,
                                                bool has_tables = true);

/// The name of a table's or figure's file, without folder and extension.
[[nodiscard]] std::string file_stem(const std::string& stem, const std::string& part);

}  // namespace pear::output
