// Writes a result to files.
#pragma once

#include <cstdint>
#include <functional>
#include <string>
#include <vector>

#include "base/error.hpp"
#include "output/charts/figure_writer.hpp"
#include "output/tables/csv_writer.hpp"
#include "output/tables/data_package.hpp"
#include "output/tables/xlsx_writer.hpp"
#include "result/result.hpp"

namespace pear::output {

enum class TableFormat : std::uint8_t { csv, json, xlsx, md };

/// Called while files are written: what, and how many of how many rows (0 if that is not known).
using WritingProgress =
    std::function<void(const std::string& what, std::uint64_t rows, std::uint64_t of_rows)>;

struct FilePlan {
  std::string folder;
  std::string stem;
  std::vector<FigureFormat> figures;
  std::vector<TableFormat> tables = {TableFormat::csv};
  CsvStyle csv = {};
};

struct DrawnFigure {
  std::size_t place = 0;  ///< of the result's figures
  std::string path;       ///< without ending
};

struct WrittenFiles {
  std::vector<std::string> paths;
  std::vector<DrawnFigure> figures;
  std::vector<std::string> warnings;  ///< why a figure is missing
};

/// The files of a result, written next to the old ones, which they replace together: the tables (CSV, a file
/// for each; JSON, XLSX and Markdown, one for all), every figure, and the description of the folder, which
/// names the CSV files.
class StagedResult {
 public:
  /// Creates the folder if it is missing. A workbook contains the figures that are drawn as PNG. A figure
  /// that cannot be drawn is a warning. `result` must live until commit(). Errors: io.
  [[nodiscard]] static OrError<StagedResult> stage(const result::Result& result, const Trail& trail,
                                                   const FilePlan& plan,
                                                   const WritingProgress& progress = {});
  /// A further file of the same set, which appears together with the others.
  void add(files::AtomicFile file) { files_.push_back(std::move(file)); }
  /// Errors: io, data (see describe_in_package).
  [[nodiscard]] OrError<WrittenFiles> commit();

 private:
  StagedResult() = default;

  const result::Result* result_ = nullptr;
  Trail trail_;
  FilePlan plan_;
  std::vector<files::AtomicFile> files_;
  WrittenFiles written_;
};

/// Stages and commits. Errors: as above.
[[nodiscard]] OrError<WrittenFiles> write_result(const result::Result& result, const Trail& trail,
                                                 const FilePlan& plan, const WritingProgress& progress = {});

/// The part of a workbook for a result that was written like this.
[[nodiscard]] WorkbookPart workbook_part(const result::Result& result, const Trail& trail,
                                         const FilePlan& plan, const WrittenFiles& written);

}  // namespace pear::output
