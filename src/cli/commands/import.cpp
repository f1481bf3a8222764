#include "cli/commands/import.hpp"

#include <filesystem>

#include <fmt/format.h>

#include "base/text.hpp"
#include "cli/commands/import_run.hpp"
#include "cli/terminal.hpp"
#include "intake/plan/intake_file.hpp"
#include "intake/read/table_columns.hpp"

namespace pear::cli {
namespace {

OrError<std::string> target(const Arguments& arguments) {
  if (const std::string* daybook = arguments.find("daybook")) return *daybook;
  const std::string& source = arguments.words.front();
  if (source == "-") return usage_error("import from standard input needs --daybook NAME.daybook.");
  const std::filesystem::path path(source);
  std::filesystem::path name = path.filename();
  while (name.has_extension()) name = name.stem();  // sales.csv.gz becomes sales
  return name.string() + ".daybook";
}

OrError<intake::IntakePlan> plan_of(const Arguments& arguments) {
  const std::string& source = arguments.words.front();
  const bool is_intake_file = std::filesystem::path(source).extension() == ".toml";
  if (is_intake_file && arguments.has("map"))
    return usage_error(
        fmt::format("--map goes with a file of lines; in {} columns are told by [lines.columns].", source));
  if (is_intake_file) return intake::read_intake_file(source);
  PEAR_ASSIGN(auto assignments, intake::parse_assignments(arguments.value_or("map", "")));
  return intake::flat_plan(source, std::move(assignments));
}

OrError<void> run_import(const Arguments& arguments) {
  if (arguments.words.empty())
    return usage_error(
        "import needs an intake file or a file of sales lines. It is called as: pear-thread import INTAKE "
        "[OPTIONS]");
  ImportTask task;
  PEAR_ASSIGN(task.plan, plan_of(arguments));
  PEAR_ASSIGN(task.daybook, target(arguments));
  task.folder = arguments.value_or("out", "");
  task.command = fmt::format("pear-thread import {}",
                             std::filesystem::path(arguments.words.front()).filename().string());
  task.append = arguments.has("append");
  task.strict = arguments.has("strict");
  task.dry_run = arguments.has("dry-run");
  task.show_progress = !arguments.has("quiet");
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
      "reads, joins, cleans and checks raw data, writes the daybook",
      "INTAKE is an intake file (.toml): it says where lines, orders, products and customers are, how they\n"
      "join and what is cleaned; pear-thread inspect writes one to begin with. One flat file with "
      "everything\n"
      "does as well: CSV (plain, gzip or zstd; - for standard input), whose header names the columns "
      "order_id,\n"
      "order_date, customer_id, product_id, quantity and unit_price; all others come along.\n"
      "Every row is accounted for: the report, the rows that were kept out and the cells that were changed\n"
      "go to NAME-import beside the daybook.",
      {"pear-thread import shop.toml", "pear-thread import shop.toml --preview-duplicates",
       "pear-thread import december.toml --daybook shop.daybook --append",
       "pear-thread import sales.csv --daybook shop.daybook --map order_id=\"Order No\",order_date=Placed"},
      {{"daybook", "PATH", "the file's name with .daybook", "the daybook to write"},
       {"map", "ROLE=COLUMN,...", "", "which column of a flat file plays which role"},
       {"append", "", "", "add to the daybook; lines that it has already are left out"},
       {"strict", "", "", "a rejected row is an error, and nothing is written"},
       {"dry-run", "", "", "do all but write"},
       {"preview-duplicates", "", "", "list what [[duplicates]] would drop and keep, and import nothing"},
       {"out", "FOLDER", "NAME-import", "where the report goes"}},
      run_import};
}

}  // namespace pear::cli
