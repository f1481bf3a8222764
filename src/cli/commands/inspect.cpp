#include "cli/commands/inspect.hpp"

#include <filesystem>

#include <fmt/format.h>

#include "base/text.hpp"
#include "cli/progress.hpp"
#include "cli/terminal.hpp"
#include "database/address.hpp"
#include "files/atomic_file.hpp"
#include "intake/inspect/inspection.hpp"
#include "intake/inspect/inspection_report.hpp"
#include "intake/plan/starter.hpp"

namespace pear::cli {
namespace {

OrError<std::vector<sources::TableAddress>> sources_of(const std::vector<std::string>& words) {
  if (words.empty())
    return usage_error(
        "inspect needs a file or database. Usage: pear-thread inspect FILE...|DATABASE-URL [OPTIONS]");
  std::vector<sources::TableAddress> sources;
  for (const std::string& word : words) {
    if (database::is_database_address(word)) {
      PEAR_ASSIGN(const auto tables, intake::sources_of_database(word));
      sources.insert(sources.end(), tables.begin(), tables.end());
    } else {
      PEAR_ASSIGN(const auto tables, sources::tables_of_file(word));
      sources.insert(sources.end(), tables.begin(), tables.end());
    }
  }
  return sources;
}

/// Never overwrites a file, which may have been written by hand.
OrError<void> check_write_target(const std::string& path) {
  if (std::filesystem::exists(path))
    return usage_error(fmt::format(
        "--write {}: this file exists already and may contain your edits. Choose another name.", path));
  return files::check_writable(path);
}

OrError<void> run_inspect(const Arguments& arguments) {
  PEAR_ASSIGN(const auto sources, sources_of(arguments.words));
  const std::string target = arguments.value_or("write", "");
  if (!target.empty()) PEAR_TRY(check_write_target(target));
  auto inspection = [&] {
    ProgressBar bar(!arguments.has("quiet"));
    return intake::inspect_sources(sources, [&](const intake::ImportProgress& progress) {
      bar.show(progress.bytes, progress.bytes_in_all, progress.source, counted(progress.rows, "row"));
    });
  }();
  PEAR_TRY(inspection);
  std::vector<std::string> written;
  if (!target.empty()) {
    const std::string folder = std::filesystem::path(target).parent_path().string();
    PEAR_TRY(
        files::write_file(target, intake::starter_intake(inspection->guess, inspection->profiles, folder)));
    written.push_back(target);
  }
  output::TerminalStyle style = terminal_style();
  style.top = 100;
  if (!arguments.has("quiet"))
    print(output::render_result(intake::report_inspection(*inspection), "", written, style));
  return {};
}

}  // namespace

Command inspect_command() {
  return {
      "inspect",
      "FILE...|DATABASE-URL",
      1000,
      "shows what raw data contains, guesses roles and joins, writes a starter intake file",
      "Inspects files (CSV or TSV, plain, gzip or zstd), spreadsheets (.xlsx, .ods; BOOK.xlsx?sheet=NAME for "
      "one\nsheet) or the tables of a database (sqlite:///shop.db, postgresql://user@host/shop, "
      "odbc:DSN=shop;\n?table=NAME for one of them): whole up to 200 MB; of larger files the start, middle "
      "and "
      "end. Finds titles\nabove the header, totals and remarks below, and how numbers and dates are written. "
      "Shows for each column its "
      "contents and what is suspicious, guesses its\nrole and how the sources join, and gives the "
      "reasons. Where the data leave a question open, it asks\nyou. --write puts everything into an "
      "intake file, to import or to edit.",
      {"pear-thread inspect orders.csv order-lines.csv products.csv customers.csv --write shop.toml",
       "pear-thread inspect sqlite:///shop.db"},
      {{"write", "PATH", "", "the intake file to write; never overwrites a file"}},
      run_inspect};
}

}  // namespace pear::cli
