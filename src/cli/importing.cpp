#include "cli/importing.hpp"

#include <filesystem>
#include <utility>

#include <fmt/format.h>

#include "base/text.hpp"
#include "cli/ask.hpp"
#include "cli/progress.hpp"
#include "cli/stopwatch.hpp"
#include "intake/import.hpp"
#include "intake/import_report.hpp"
#include "output/atomic_file.hpp"
#include "output/csv_writer.hpp"
#include "question/population.hpp"
#include "sources/byte_source.hpp"
#include "storage/daybook_file.hpp"

namespace pear::cli {
namespace {

/// A daybook is only ever written over a daybook, and where files can be made: told before anything is read.
OrError<void> check_target(const std::string& path) {
  if (std::filesystem::path(path).extension() != ".daybook")
    return usage_error(fmt::format("--daybook {}: the name of a daybook ends in .daybook.", path));
  PEAR_TRY(check_writable(path));
  std::error_code failure;
  if (!std::filesystem::exists(path, failure)) return {};
  const auto old = DaybookFile::open(path);
  const bool foreign = !old && old.error().message.find("is not a daybook") != std::string::npos;
  if (!foreign) return {};
  return usage_error(
      fmt::format("{} is there and is not a daybook; it is left alone. Choose another name.", path));
}

std::string rejected_path(const std::string& daybook) {
  std::filesystem::path path(daybook);
  return (path.parent_path() / (path.stem().string() + "-rejected.csv")).string();
}

/// NAME-rejected.csv, begun with the first rejected row.
class RejectedFile {
 public:
  RejectedFile(std::string path, std::string source) : path_(std::move(path)), source_(std::move(source)) {}

  OrError<void> add(const RejectedRow& row) {
    if (!file_) PEAR_TRY(begin());
    return file_->write(
        csv_line({source_, std::to_string(row.line), row.column, row.value, row.reason, row.row}));
  }

  /// Puts the file in place; its path, or nothing where there is none. An older one is replaced in any case,
  /// so that it is not taken for this import's.
  OrError<std::optional<std::string>> finish() {
    if (!file_ && std::filesystem::exists(path_)) PEAR_TRY(begin());
    if (!file_) return std::nullopt;
    PEAR_TRY(file_->commit());
    return path_;
  }

 private:
  OrError<void> begin() {
    PEAR_ASSIGN(file_, AtomicFile::create(path_));
    return file_->write("file,line,column,value,reason,row\n");
  }
  std::string path_;
  std::string source_;
  std::optional<AtomicFile> file_;
};

}  // namespace

OrError<ImportOutcome> import_to_file(const ImportPlan& plan) {
  PEAR_TRY(check_target(plan.daybook));
  PEAR_ASSIGN(std::unique_ptr<ByteSource> source, open_bytes(plan.source));
  RejectedFile rejected(rejected_path(plan.daybook), source->name());
  Stopwatch stopwatch;
  auto imported = [&] {
    ProgressBar bar(plan.show_progress);
    return import_lines(
        std::move(source), plan.assignments,
        {[&](const RejectedRow& row) { return rejected.add(row); },
         [&](const ImportProgress& progress) {
           bar.show(progress.bytes, progress.bytes_in_all,
                    fmt::format("{}, {} MB", counted(progress.rows, "row"), progress.bytes / 1'000'000));
         }});
  }();
  PEAR_TRY(imported);
  stopwatch.lap("source read and sorted");

  ImportOutcome outcome;
  outcome.report = report_import(*imported, population_of(imported->built.daybook));
  PEAR_TRY(require_checks(outcome.report));
  const Provenance provenance{{imported->source}, cleaning_counts(*imported)};
  PEAR_TRY(write_daybook(plan.daybook, imported->built.daybook, provenance));
  stopwatch.lap("daybook written");
  outcome.source_name = imported->source.name;
  outcome.paths.push_back(plan.daybook);
  PEAR_ASSIGN(const auto rejected_file, rejected.finish());
  if (rejected_file) outcome.paths.push_back(*rejected_file);
  return outcome;
}

}  // namespace pear::cli
