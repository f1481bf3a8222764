#include <filesystem>

#include "cli/command.hpp"
#include "cli/importing.hpp"
#include "cli/terminal.hpp"

namespace pear::cli {
namespace {

OrError<std::string> target(const Arguments& arguments) {
  if (const std::string* daybook = arguments.find("daybook")) return *daybook;
  const std::string& source = arguments.words.front();
  if (source == "-") return usage_error("import from standard input needs --daybook NAME.daybook.");
  std::filesystem::path name = std::filesystem::path(source).filename();
  while (name.has_extension()) name = name.stem();  // sales.csv.gz becomes sales
  return name.string() + ".daybook";
}

OrError<void> run(const Arguments& arguments) {
  if (arguments.words.empty())
    return usage_error(
        "import needs a file of sales lines. It is called as: pear-thread import FILE [OPTIONS]");
  ImportPlan plan;
  plan.source = arguments.words.front();
  plan.show_progress = !arguments.has("quiet");
  PEAR_ASSIGN(plan.daybook, target(arguments));
  PEAR_ASSIGN(plan.assignments, parse_assignments(arguments.value_or("map", "")));
  PEAR_ASSIGN(const ImportOutcome outcome, import_to_file(plan));
  if (!arguments.has("quiet"))
    print(
        render_result(outcome.report, "all rows of " + outcome.source_name, outcome.paths, terminal_style()));
  return {};
}

}  // namespace

Command import_command() {
  return {
      "import",
      "FILE",
      1,
      "reads sales lines, checks them, writes the daybook",
      "Reads a CSV file of sales lines (plain, gzip or zstd; - for standard input) and writes a daybook.\n"
      "The header names the columns: order_id, order_date, customer_id, product_id, quantity and\n"
      "unit_price are needed; amount, unit_cost and list_price are used where they are there; all other\n"
      "columns come along. Dates are YYYY-MM-DD, with or without a time of day; decimals have a point.\n"
      "Rows that cannot be used are written to NAME-rejected.csv, each with its line and the reason.",
      {"pear-thread import sales.csv", "pear-thread import sales.csv --daybook shop.daybook",
       "pear-thread import export.csv.gz --daybook shop.daybook --map order_id=\"Order "
       "No\",order_date=Placed"},
      {{"daybook", "PATH", "the file's name with .daybook", "the daybook to write"},
       {"map", "ROLE=COLUMN,...", "", "which column of the file plays which role"}},
      run};
}

}  // namespace pear::cli
