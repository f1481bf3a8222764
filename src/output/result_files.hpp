// A result in files.
#pragma once

#include <string>
#include <vector>

#include "base/error.hpp"
#include "output/data_package.hpp"
#include "output/figure_writer.hpp"
#include "result/result.hpp"

namespace pear {

struct FilePlan {
  std::string folder;
  std::string stem;
  std::vector<FigureFormat> figures;
};

struct WrittenFiles {
  std::vector<std::string> paths;
  std::vector<std::string> warnings;  ///< why a figure is missing
};

/// Writes every table as CSV, every figure, and the description of the folder; the folder is made where it is
/// missing. A figure that cannot be drawn is a warning. Errors: io, data (see describe_in_package).
[[nodiscard]] OrError<WrittenFiles> write_result(const Result& result, const Trail& trail,
                                                 const FilePlan& plan);

}  // namespace pear
