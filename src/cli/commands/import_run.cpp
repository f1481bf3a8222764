#include "cli/commands/import_run.hpp"

#include <algorithm>
#include <filesystem>
#include <optional>
#include <utility>

#include <fmt/format.h>
#include <spdlog/spdlog.h>

#include "app/run_and_write.hpp"
#include "base/text.hpp"
#include "cli/commands/import_append.hpp"
#include "cli/commands/import_sales.hpp"
#include "cli/commands/run_folder.hpp"
#include "cli/progress.hpp"
#include "cli/stopwatch.hpp"
#include "files/atomic_file.hpp"
#include "files/unfinished.hpp"
#include "intake/import_report.hpp"
#include "intake/known_sources.hpp"
#include "intake/rejected_share.hpp"
#include "intake/sample_queries.hpp"
#include "output/tables/csv_writer.hpp"
#include "output/tables/markdown_writer.hpp"
#include "output/tables/result_files.hpp"
#include "storage/daybook_reader.hpp"
#include "storage/daybook_writer.hpp"

namespace pear::cli {
namespace {

constexpr const char* kStem = "import";

/// Only a daybook is ever overwritten by a daybook, and only where files can be created: checked before
/// anything is read.
OrError<void> check_target(const std::string& path) {
  if (std::filesystem::path(path).extension() != ".daybook")
    return usage_error(fmt::format("--daybook {}: the name of a daybook ends in .daybook.", path));
  PEAR_TRY(files::check_writable(path));
  std::error_code failure;
  if (!std::filesystem::exists(path, failure)) return {};
  const auto old = storage::DaybookFile::open(path);
  const bool foreign = !old && old.error().message.find("is not a daybook") != std::string::npos;
  if (!foreign) return {};
  return usage_error(
      fmt::format("{} exists and is not a daybook, so it is not overwritten. Choose another name.", path));
}

/// Lines of other sources, such as those of an earlier --append, would be lost.
OrError<void> check_replaced(const ImportTask& task) {
  std::error_code failure;
  if (task.append || task.replace || !std::filesystem::exists(task.daybook, failure)) return {};
  const auto old = storage::DaybookFile::open(task.daybook);
  if (!old) return {};  // of another version, or damaged: importing again is the remedy
  std::vector<std::string> lost;
  std::uint64_t rows = 0;
  for (const daybook::SourceRecord& source : intake::sources_not_read(old->info().provenance, task.plan)) {
    lost.push_back(source.name);
    rows += source.rows_kept;
  }
  if (lost.empty()) return {};
  constexpr std::size_t kMostNamed = 3;
  const std::string names =
      lost.size() > kMostNamed ? counted(lost.size(), "other source") : join(lost, ", ");
  return usage_error(fmt::format(
      "{} contains {} from {}, which this import does not read. Add to it with --append, or replace it with "
      "--replace.",
      task.daybook, counted(rows, "line"), names));
}

std::string selection_of(const intake::IntakePlan& plan) {
  std::vector<std::string> names;
  for (const auto& table : plan.tables) {
    if (!table) continue;
    for (const sources::TableAddress& source : table->sources())
      if (!source.only_header) names.push_back(source.file.empty() ? source.database : source.file);
  }
  constexpr std::size_t kMostNamed = 6;
  if (names.size() > kMostNamed) return fmt::format("all rows of {}", counted(names.size(), "source"));
  return "all rows of " + join(names, ", ");
}

/// A CSV file that is created with its first row, or at the end.
class Listing {
 public:
  Listing(std::string path, std::string header) : path_(std::move(path)), header_(std::move(header)) {}
  OrError<void> add(const std::vector<std::string_view>& fields) {
    if (!file_) PEAR_TRY(begin());
    return file_->write(output::csv_line(fields));
  }
  OrError<files::AtomicFile> finish() {
    if (!file_) PEAR_TRY(begin());
    PEAR_TRY(file_->finish());
    return std::move(*file_);
  }

 private:
  OrError<void> begin() {
    PEAR_TRY(files::make_folder(std::filesystem::path(path_).parent_path().string()));
    PEAR_ASSIGN(file_, files::AtomicFile::create(path_));
    return file_->write(header_);
  }
  std::string path_, header_;
  std::optional<files::AtomicFile> file_;
};

/// The rejected rows and the changed cells, written as they come; nothing on a dry run.
class Listings {
 public:
  Listings(std::string folder, bool dry_run)
      : folder_(std::move(folder)),
        dry_run_(dry_run),
        rejected_(folder_ + "/import-rejected.csv", "source,line,column,value,reason,row\n"),
        excluded_(folder_ + "/import-excluded.csv", "source,line,reason,row\n"),
        changed_(folder_ + "/import-changed.csv", "source,line,column,step,before,after\n") {}

  OrError<void> add(const intake::RejectedRow& row) {
    if (rejected_rows_++ == 0)
      first_rejected_ =
          fmt::format("{}, line {}: {} {} {}.", row.source, row.line,
                      row.column.empty() ? "the row" : row.column, in_quotes(row.value), row.reason);
    if (dry_run_) return {};
    return rejected_.add({row.source, std::to_string(row.line), row.column, row.value, row.reason, row.row});
  }
  OrError<void> add(const intake::ChangedCell& cell) {
    if (dry_run_) return {};
    return changed_.add(
        {cell.source, std::to_string(cell.line), cell.column, cell.step, cell.before, cell.after});
  }
  OrError<void> add(const intake::ExcludedRow& row) {
    if (dry_run_) return {};
    return excluded_.add({row.source, std::to_string(row.line), row.reason, row.row});
  }
  OrError<void> finish(output::StagedResult& report) {
    PEAR_ASSIGN(files::AtomicFile rejected, rejected_.finish());
    PEAR_ASSIGN(files::AtomicFile excluded, excluded_.finish());
    PEAR_ASSIGN(files::AtomicFile changed, changed_.finish());
    report.add(std::move(rejected));
    report.add(std::move(excluded));
    report.add(std::move(changed));
    return {};
  }
  [[nodiscard]] OrError<void> require_none() const {
    if (rejected_rows_ == 0) return {};
    return data_error(fmt::format("{} rejected, and --strict allows none; nothing was written. First: {}",
                                  counted(rejected_rows_, "row was", "rows were"), first_rejected_));
  }

 private:
  std::string folder_;
  bool dry_run_;
  Listing rejected_, excluded_, changed_;
  std::uint64_t rejected_rows_ = 0;
  std::string first_rejected_;
};

template <class Work>
auto with_progress(const ImportTask& task, Listings& listings, Work work) {
  ProgressBar bar(task.show_progress);
  const intake::ImportHooks hooks{
      [&](const intake::RejectedRow& row) { return listings.add(row); },
      [&](const intake::ChangedCell& cell) { return listings.add(cell); },
      [&](const intake::ImportProgress& progress) {
        if (progress.is_later_stage)
          bar.show(progress.bytes, progress.bytes_in_all, progress.source);
        else if (progress.bytes < progress.bytes_in_all)
          bar.show(progress.bytes, progress.bytes_in_all, progress.source,
                   fmt::format("{}, {} MB", counted(progress.rows, "row"), progress.bytes / 1'000'000));
        else
          bar.show(0, 0, "joining and sorting");
      },
      [&](const intake::ExcludedRow& row) { return listings.add(row); }};
  return work(hooks);
}

daybook::Provenance provenance_of(const ImportTask& task, const intake::Imported& imported) {
  const std::uint64_t lines = imported.built.daybook.lines();
  daybook::Provenance provenance{task.plan.shop,
                                 imported.currency,
                                 {},
                                 intake::cleaning_counts(imported),
                                 {{task.command, lines, 0, lines}},
                                 task.plan.sample};
  for (const intake::SourceAccount& source : imported.sources) provenance.sources.push_back(source.record);
  return provenance;
}

Date today() {
  const auto days = std::chrono::floor<std::chrono::days>(std::chrono::system_clock::now());
  return {static_cast<std::int32_t>(days.time_since_epoch().count())};
}

OrError<std::string> write_sales(const ImportTask& task, const ImportedSales& sales,
                                 const daybook::Provenance& provenance, storage::DaybookTarget& target) {
  ProgressBar bar(task.show_progress);
  return sales.write(target, provenance, [&](std::uint64_t done, std::uint64_t all) {
    bar.show(done, all, "writing the daybook");
  });
}

/// Writes the daybook and the report; then both replace the old ones.
OrError<void> write_all(const ImportTask& task, const ImportedSales& sales,
                        const daybook::Provenance& provenance, storage::DaybookTarget& target,
                        const RunFolder& run, Listings& listings, ImportOutcome& outcome) {
  PEAR_ASSIGN(const std::string fingerprint, write_sales(task, sales, provenance, target));
  const std::string& folder = run.path();
  const output::Trail trail{task.command, std::filesystem::path(task.daybook).filename().string(),
                            fingerprint, outcome.selection};
  PEAR_ASSIGN(output::StagedResult report,
              output::StagedResult::stage(outcome.report, trail, {folder, kStem, {}}));
  constexpr std::size_t kTop = 20;
  PEAR_ASSIGN(files::AtomicFile page, files::AtomicFile::create(folder + "/import.md"));
  PEAR_TRY(page.write(output::render_markdown(outcome.report, "Import", outcome.selection, kStem, kTop)));
  report.add(std::move(page));
  PEAR_TRY(listings.finish(report));
  const auto uninterrupted = files::no_interruption();
  PEAR_TRY(run.keep_daybook(task.daybook));
  PEAR_TRY(target.commit());
  PEAR_ASSIGN(const output::WrittenFiles files, report.commit());
  run.forget_older();
  outcome.paths = {task.daybook, folder + "/import.md",
                   fmt::format("{} in {}", counted(files.paths.size() - 1, "further file"), folder)};
  return {};
}

/// Takes the daybook before the old one is read, so that no other import can replace it in the meantime.
OrError<storage::DaybookTarget> lock_target(const ImportTask& task) {
  const files::Waiting waiting{
      task.longest_wait,
      [&] { spdlog::info("waiting for another import, which is writing {}.", task.daybook); }};
  return storage::DaybookTarget::lock(task.daybook, waiting);
}

}  // namespace

std::string ImportTask::report_folder() const { return folder.empty() ? folder_of_runs(daybook) : folder; }

OrError<ImportOutcome> import_to_file(ImportTask task) {
  PEAR_TRY(check_target(task.daybook));
  PEAR_TRY(check_replaced(task));
  std::optional<storage::DaybookTarget> target;
  if (!task.dry_run) {
    PEAR_ASSIGN(target, lock_target(task));
  }
  std::vector<std::string> known;
  if (task.append) {
    PEAR_ASSIGN(known, skip_known_sources(task.daybook, task.plan));
  }
  if (task.plan.sample > 0) PEAR_TRY(intake::sample_in_databases(task.plan));
  if (!task.dry_run) remove_interrupted_runs(task.report_folder());
  const RunFolder run(task.report_folder(), today());
  Listings listings(run.path(), task.dry_run);
  Stopwatch stopwatch;
  PEAR_ASSIGN(ImportedSales sales, with_progress(task, listings, [&](const intake::ImportHooks& hooks) {
                return ImportedSales::read(task, hooks);
              }));
  intake::Imported& imported = sales.imported;
  stopwatch.lap("sources read and sorted");
  if (task.strict) PEAR_TRY(listings.require_none());
  if (!task.accept_rejects && !task.dry_run) PEAR_TRY(intake::check_few_rejected(imported));

  ImportOutcome outcome;
  outcome.selection = selection_of(task.plan);
  outcome.report = intake::report_import(imported, sales.population);
  if (std::string future = intake::orders_in_the_future(imported, task.plan, today()); !future.empty())
    outcome.report.headline.insert(outcome.report.headline.begin(), std::move(future));
  for (const std::string& source : known)
    outcome.report.notes.push_back(
        fmt::format("{} is in {} already, and was skipped.", source, task.daybook));
  outcome.report.population.one_in = task.plan.sample;
  PEAR_TRY(app::require_checks(outcome.report));
  daybook::Provenance provenance = provenance_of(task, imported);
  if (task.append)
    PEAR_TRY(append_to(task.daybook, task.plan.replace_orders, imported, provenance, outcome.report));
  if (task.dry_run) {
    outcome.report.notes.emplace_back("A dry run: nothing was written.");
    return outcome;
  }
  PEAR_TRY(write_all(task, sales, provenance, *target, run, listings, outcome));
  stopwatch.lap("daybook written");
  return outcome;
}

OrError<ImportOutcome> preview_to_file(const ImportTask& task) {
  Listings listings(task.report_folder(), true);
  auto duplicates = with_progress(task, listings, [&](const intake::ImportHooks& hooks) {
    return intake::preview_duplicates(task.plan, hooks);
  });
  PEAR_TRY(duplicates);
  ImportOutcome outcome;
  outcome.selection = selection_of(task.plan);
  outcome.report = intake::report_duplicates(*duplicates);
  if (task.dry_run) return outcome;
  const std::string folder = task.report_folder();
  const output::Trail trail{task.command, "", "", outcome.selection};
  PEAR_ASSIGN(const output::WrittenFiles files,
              output::write_result(outcome.report, trail, {folder, "duplicates", {}}));
  outcome.paths = files.paths;
  return outcome;
}

}  // namespace pear::cli
