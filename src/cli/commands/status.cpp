#include "cli/commands/status.hpp"

#include <algorithm>
#include <filesystem>

#include <fmt/format.h>

#include "analysis/population.hpp"
#include "base/text.hpp"
#include "cli/commands/run_folder.hpp"
#include "cli/daybook_argument.hpp"
#include "cli/terminal.hpp"
#include "output/tables/readable.hpp"
#include "storage/daybook_reader.hpp"

namespace pear::cli {
namespace {

std::string columns_of(const storage::DaybookInfo& info, daybook::Level level,
                       std::vector<std::string> names) {
  for (const storage::DaybookInfo::ColumnInfo& column : info.columns) {
    if (column.level == level)
      names.push_back(fmt::format("{} ({})", column.name, daybook::to_text(column.type)));
  }
  return join(names, ", ");
}

/// "Heading     text", the text wrapped and indented.
std::string row(std::string_view heading, const std::string& text, std::size_t width) {
  constexpr std::size_t kHeading = 12;
  std::string result;
  for (const std::string& line : output::wrapped(text, width - kHeading))
    result += fmt::format("{:<{}}{}\n", result.empty() ? heading : "", kHeading, line);
  return result;
}

std::string described_source(const daybook::SourceRecord& source) {
  std::string counts =
      fmt::format("{} ({}): {}, {} kept", source.name, source.table, counted(source.rows_read, "row"),
                  with_thousands(static_cast<std::int64_t>(source.rows_kept)));
  if (source.rows_duplicate > 0) counts += fmt::format(", {}", counted(source.rows_duplicate, "duplicate"));
  if (source.rows_excluded > 0)
    counts += fmt::format(", {} excluded", with_thousands(static_cast<std::int64_t>(source.rows_excluded)));
  return fmt::format("{}, {} rejected", counts,
                     with_thousands(static_cast<std::int64_t>(source.rows_rejected)));
}

/// "Run 2": the command, what it changed, and its sources.
std::string describe_runs(const daybook::Provenance& provenance, std::size_t width) {
  std::string text;
  const std::size_t runs = std::max<std::size_t>(1, provenance.runs.size());
  for (std::size_t run = 0; run < runs; ++run) {
    if (run < provenance.runs.size() && !provenance.runs[run].command.empty()) {
      const daybook::ImportRun& known = provenance.runs[run];
      std::string change = fmt::format("{}: {} added", known.command, counted(known.lines_added, "line"));
      if (known.lines_replaced > 0)
        change +=
            fmt::format(", {} replaced", with_thousands(static_cast<std::int64_t>(known.lines_replaced)));
      if (run > 0)
        change += fmt::format(", {} in all", with_thousands(static_cast<std::int64_t>(known.lines)));
      text += row(fmt::format("Import {}", run + 1), change, width);
    }
    for (const daybook::SourceRecord& source : provenance.sources)
      if (source.run == run + 1) text += row("Source", described_source(source), width);
  }
  for (const daybook::CleaningCount& cleaning : provenance.cleaning)
    text +=
        row("Cleaning",
            fmt::format("{}: {}", cleaning.what, with_thousands(static_cast<std::int64_t>(cleaning.count))),
            width);
  return text;
}

OrError<void> run_status(const Arguments& arguments) {
  PEAR_ASSIGN(const std::string path, daybook_path(arguments));
  PEAR_ASSIGN(storage::DaybookFile file, storage::DaybookFile::open(path));
  const storage::DaybookInfo& info = file.info();
  PEAR_ASSIGN(const daybook::Daybook daybook,
              file.load({std::string(daybook::role::kOrderDate), std::string(daybook::role::kIsReturn)}));
  std::string health = "opens correctly. Use --verify for a full check";
  if (arguments.has("verify")) {
    PEAR_TRY(file.verify());
    health = "verified: every segment matches its checksum, and all of them the fingerprint";
  }
  const std::size_t width = terminal_style().width;
  std::string text = row(
      "Daybook",
      fmt::format("{}, {:.1f} MB", path, static_cast<double>(std::filesystem::file_size(path)) / 1e6), width);
  const daybook::Provenance& from = info.provenance;
  if (!from.shop.empty() || !from.currency.empty())
    text += row("Shop",
                from.currency.empty()
                    ? from.shop
                    : from.shop + (from.shop.empty() ? "" : ", ") + "amounts in " + from.currency,
                width);
  result::Population population = analysis::population_of(daybook);
  population.one_in = from.sample;
  text +=
      row("Contents",
          fmt::format("{}; {}", output::readable_population(population), counted(info.products, "product")),
          width);
  text += describe_runs(info.provenance, width);
  if (const std::string report = last_run(folder_of_runs(path)); !report.empty())
    text += row("Report", report + "/import.md", width);
  text += row("Lines", columns_of(info, daybook::Level::line, {"product_id"}), width);
  text += row("Orders", columns_of(info, daybook::Level::order, {"order_id"}), width);
  text += row("Customers", columns_of(info, daybook::Level::customer, {"customer_id"}), width);
  text += row("Products", columns_of(info, daybook::Level::product, {"product_id"}), width);
  text += row("Fingerprint", info.fingerprint, width);
  text += row("Health", health, width);
  if (!arguments.has("quiet")) print(text);
  return {};
}

}  // namespace

Command status_command() {
  return {"status",
          "[DAYBOOK]",
          1,
          "what a daybook contains, from which sources, and whether it is intact",
          "Shows the contents of a daybook, its sources, what was rejected, and its columns by level: those "
          "of a\nline, an order, a customer and a product.",
          {"pear-thread status shop.daybook", "pear-thread status shop.daybook --verify"},
          {{"verify", "", "", "reread everything and compare it with its checksums"}},
          run_status};
}

}  // namespace pear::cli
