#include "cli/commands/import.hpp"

#include <filesystem>

#include <fmt/format.h>

#include "analysis/options/memory_size.hpp"
#include "base/text.hpp"
#include "cli/commands/import_run.hpp"
#include "cli/commands/run_folder.hpp"
#include "cli/daybook_argument.hpp"
#include "cli/terminal.hpp"
#include "intake/clean/customer_sample.hpp"
#include "intake/plan/intake_file.hpp"
#include "intake/read/table_columns.hpp"

namespace pear::cli {
namespace {

OrError<std::string> target(const Arguments& arguments) {
  if (const std::string* daybook = arguments.find("daybook")) return *daybook;
  const std::string& source = arguments.words.front();
  if (source == "-") return usage_error("import from standard input needs --daybook NAME.daybook.");
  const std::filesystem::path path(sources::file_address(source).file);
  std::filesystem::path name = path.filename();
  while (name.has_extension()) name = name.stem();  // sales.csv.gz becomes sales
  return name.string() + ".daybook";
}

OrError<intake::IntakePlan> plan_of(const Arguments& arguments) {
  const std::string& source = arguments.words.front();
  const bool is_intake_file = std::filesystem::path(source).extension() == ".toml";
  if (is_intake_file && arguments.has("map"))
    return usage_error(
        fmt::format("--map is for a file of lines; {} names its columns in [lines.columns].", source));
  if (is_intake_file) return intake::read_intake_file(source);
  PEAR_ASSIGN(auto assignments, intake::parse_assignments(arguments.value_or("map", "")));
  return intake::flat_plan(source, std::move(assignments));
}

/// The daybook is named like that of another command, or with --daybook.
OrError<void> run_undo(const Arguments& arguments) {
  Arguments named = arguments;
  if (const std::string* daybook = arguments.find("daybook")) named.words = {*daybook};
  PEAR_ASSIGN(const std::string path, daybook_path(named));
  PEAR_ASSIGN(const std::string done, undo_last_run(path, arguments.value_or("out", folder_of_runs(path))));
  if (!arguments.has("quiet")) print(done + "\n");
  return {};
}

OrError<void> run_import(const Arguments& arguments) {
  if (arguments.has("undo")) return run_undo(arguments);
  if (arguments.words.empty())
    return usage_error(
        "import needs an intake file or a file of sales lines. Usage: pear-thread import INTAKE [OPTIONS]");
  ImportTask task;
  PEAR_ASSIGN(task.plan, plan_of(arguments));
  PEAR_ASSIGN(task.daybook, target(arguments));
  task.folder = arguments.value_or("out", "");
  task.command = fmt::format("pear-thread import {}",
                             std::filesystem::path(arguments.words.front()).filename().string());
  if (const std::string* sample = arguments.find("customers")) {
    PEAR_ASSIGN(task.plan.sample, intake::parse_sample(*sample));
    task.command += " --customers " + *sample;
  }
  task.append = arguments.has("append");
  task.replace = arguments.has("replace");
  if (task.append && task.replace) return usage_error("--append and --replace exclude each other.");
  task.strict = arguments.has("strict");
  task.accept_rejects = arguments.has("accept-rejects");
  task.dry_run = arguments.has("dry-run");
  if (const std::string* memory = arguments.find("memory")) {
    constexpr std::uint64_t kLeast = 200'000'000;
    PEAR_ASSIGN(task.memory, analysis::parse_memory("memory", *memory, kLeast));
  }
  for (const std::string_view other : {"append", "preview-duplicates"})
    if (task.memory > 0 && arguments.has(std::string(other)))
      return usage_error(
          fmt::format("--memory and --{} exclude each other: the latter needs all lines in memory.", other));
  const std::string expansion =
      arguments.value_or("max-expansion", std::to_string(sources::kLargestExpansion));
  PEAR_ASSIGN(const std::int64_t times, analysis::parse_whole("max-expansion", expansion, 1, 1'000'000'000));
  for (auto& table : task.plan.tables) {
    if (!table) continue;
    for (intake::SourcePlan& from : table->from)
      for (sources::TableAddress& source : from.sources)
        source.largest_expansion = static_cast<std::uint64_t>(times);
  }
  task.show_progress = !arguments.has("quiet");
  constexpr std::int64_t kLongestWait = 86'400;
  PEAR_ASSIGN(const std::int64_t wait,
              analysis::parse_whole("wait", arguments.value_or("wait", "0"), 0, kLongestWait));
  task.longest_wait = std::chrono::seconds(wait);
  PEAR_ASSIGN(const ImportOutcome outcome,
              arguments.has("preview-duplicates") ? preview_to_file(task) : import_to_file(task));
  if (!arguments.has("quiet"))
    print(output::render_result(outcome.report, outcome.selection, outcome.paths, terminal_style()));
  return {};
}

}  // namespace

Command import_command() {
  return {
      "import",
      "INTAKE|FILE",
      1,
      "reads, joins, cleans and checks raw data, and writes the daybook",
      "INTAKE is an intake file (.toml): it names the files with lines, orders, products and customers, how "
      "they\njoin and what is cleaned; pear-thread inspect writes a first one. One flat file with everything "
      "also\nworks: CSV (plain, gzip or zstd; - for standard input) or a spreadsheet (.xlsx, .ods; "
      "BOOK.xlsx?sheet=NAME\nif it has several sheets), with the columns order_id, order_date, customer_id, "
      "product_id, "
      "quantity and\nunit_price in its header; all other columns are kept. Every row is accounted for: the "
      "report, "
      "the\nrejected rows and the changed cells are written to a folder of this run, NAME-import/DATE-N, "
      "next to "
      "the\ndaybook.",
      {"pear-thread import shop.toml", "pear-thread import shop.toml --preview-duplicates",
       "pear-thread import december.toml --daybook shop.daybook --append",
       "pear-thread import warehouse.toml --customers 1/50 --daybook sample.daybook",
       "pear-thread import decade.toml --daybook decade.daybook --memory 2GB",
       "pear-thread import --undo shop.daybook",
       "pear-thread import sales.csv --daybook shop.daybook --map order_id=\"Order No\",order_date=Placed"},
      {{"daybook", "PATH", "the file's name with .daybook", "the daybook to write"},
       {"map", "ROLE=COLUMN,...", "", "the role of each column of a flat file"},
       {"append", "", "", "add to the daybook; skips lines that it contains already"},
       {"customers", "1/N", "", "import a sample of 1 in N customers, with all their lines"},
       {"replace", "", "", "replace the daybook, even if it contains lines of other sources"},
       {"undo", "", "", "give the daybook the state that it had before its last import"},
       {"strict", "", "", "a rejected row is an error, and nothing is written"},
       {"accept-rejects", "", "", "import although more than a tenth of the rows of a source are rejected"},
       {"memory", "SIZE", "", "sort on disk, in about this much memory (2GB), sales that do not fit into it"},
       {"wait", "SECONDS", "0", "how long to wait for another import that is writing the same daybook"},
       {"max-expansion", "N", "1000", "how many times its size compressed data over 1 GB may expand"},
       {"dry-run", "", "", "do everything except writing"},
       {"preview-duplicates", "", "", "list what [[duplicates]] would drop and keep, and import nothing"},
       {"out", "FOLDER", "NAME-import", "the folder for the reports, one folder in it for each run"}},
      run_import};
}

}  // namespace pear::cli
