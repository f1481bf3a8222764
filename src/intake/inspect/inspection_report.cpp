#include "intake/inspect/inspection_report.hpp"

#include <algorithm>

#include <fmt/format.h>

#include "base/text.hpp"
#include "intake/import_tables.hpp"
#include "intake/inspect/roles_by_values.hpp"

namespace pear::intake {
namespace {

const GuessedTable* table_of(const Guess& guess, std::size_t source) {
  for (const GuessedTable& table : guess.tables) {
    if (std::find(table.sources.begin(), table.sources.end(), source) != table.sources.end()) return &table;
  }
  return nullptr;
}

std::string part_played(const GuessedTable* table, std::size_t column) {
  if (table == nullptr || table->columns[column].why.empty()) return "";
  return table->columns[column].name;
}

std::string level_of(const Inspection& inspection, const GuessedTable* table, std::size_t column) {
  if (table == nullptr) return "";
  if (inspection.trial) {
    const daybook::Daybook& daybook = inspection.trial->built.daybook;
    const std::string& name = table->columns[column].name;
    // If another table has a column of this name, it has its table's name in front.
    const daybook::Column* found = daybook.find(fmt::format("{}_{}", singular(table->kind), name));
    if (found == nullptr) found = daybook.find(name);
    if (found != nullptr) return std::string(daybook::to_text(found->level));
  }
  return "";
}

std::string shown_header(const SourceProfile& source, std::size_t column) {
  const std::string& header = source.columns[column].header;
  return header.empty() ? fmt::format("(column {})", column + 1) : header;
}

result::Table columns_table(const Inspection& inspection, std::size_t position) {
  const SourceProfile& source = inspection.profiles[position];
  const GuessedTable* guessed = table_of(inspection.guess, position);
  TextArray names, parts, types, levels, reasons;
  std::vector<double> filled;
  std::vector<std::int64_t> distinct;
  for (std::size_t i = 0; i < source.columns.size(); ++i) {
    const ColumnProfile& column = source.columns[i];
    names.push_back(shown_header(source, i));
    parts.push_back(part_played(guessed, i));
    levels.push_back(level_of(inspection, guessed, i));
    types.push_back(type_name(column));
    filled.push_back(
        column.rows == 0 ? 0 : static_cast<double>(column.filled()) / static_cast<double>(column.rows));
    distinct.push_back(static_cast<std::int64_t>(column.values.size()));
    reasons.push_back(guessed != nullptr ? guessed->columns[i].why : "");
  }
  const std::string what =
      guessed == nullptr ? "not recognised" : fmt::format("recognised as {}", to_text(guessed->kind));
  result::Table table{fmt::format("{}", position + 1),
                      fmt::format("{}: {}{}, {}", source.name, counted(source.rows, "row"),
                                  source.is_whole ? "" : " inspected", what),
                      "One row for each column of the source.",
                      {}};
  table.columns.push_back(result::text_column("column", "Its name in the header.", std::move(names)));
  table.columns.push_back(result::text_column("plays", "The role that was guessed.", std::move(parts)));
  table.columns.push_back(result::text_column("type", "The type of its values.", std::move(types)));
  table.columns.push_back(
      result::text_column("level", "The level of the daybook that it describes.", std::move(levels)));
  table.columns.push_back(
      result::share_column("filled", "Rows in which it is not empty.", std::move(filled)));
  table.columns.push_back(
      result::integer_column("distinct", result::Unit::count, "Different values.", std::move(distinct)));
  table.columns.push_back(result::text_column("why", "The reason for the guess.", std::move(reasons)));
  return table;
}

result::Table values_table(const Inspection& inspection, std::size_t position) {
  const SourceProfile& source = inspection.profiles[position];
  TextArray names, smallest, largest, samples;
  for (std::size_t i = 0; i < source.columns.size(); ++i) {
    const ColumnProfile& column = source.columns[i];
    names.push_back(shown_header(source, i));
    smallest.push_back(column.smallest);
    largest.push_back(column.largest);
    samples.push_back(join(column.samples, " · "));
  }
  result::Table table{fmt::format("{}-values", position + 1),
                      fmt::format("Values of {}", source.name),
                      "One row for each column of the source.",
                      {}};
  table.columns.push_back(result::text_column("column", "Its name in the header.", std::move(names)));
  table.columns.push_back(
      result::text_column("smallest", "The smallest number, first date or first text.", std::move(smallest)));
  table.columns.push_back(result::text_column("largest", "The largest or last.", std::move(largest)));
  table.columns.push_back(result::text_column("samples", "The first different values.", std::move(samples)));
  return table;
}

result::Table suspicions_table(const Inspection& inspection) {
  TextArray sources, columns, findings;
  for (const SourceProfile& source : inspection.profiles) {
    const auto add = [&](std::string_view column, const std::string& finding) {
      sources.push_back(source.name);
      columns.push_back(column);
      findings.push_back(finding);
    };
    if (!source.why_header.empty())
      add("(header)",
          fmt::format("the header is on line {}: {}", source.address.header_line, source.why_header));
    for (const OddRows& odd : source.odd_rows)
      add("(whole row)",
          fmt::format("{} not part of the table, {}: {}", counted(odd.rows, "row is", "rows are"),
                      in_quotes(odd.pattern), odd.why));
    if (source.malformed > 0)
      add("(whole row)",
          fmt::format("{} with another number of fields than the header", counted(source.malformed, "row")));
    if (source.repeated_rows > 0)
      add("(whole row)",
          fmt::format("{} identical to an earlier one", counted(source.repeated_rows, "row is", "rows are")));
    for (std::size_t i = 0; i < source.columns.size(); ++i) {
      for (const std::string& finding : suspicions(source.columns[i], i))
        add(shown_header(source, i), finding);
    }
  }
  result::Table table{
      "suspicious", "Worth checking", "One row for each suspicious finding about a column.", {}};
  table.columns.push_back(result::text_column("source", "The file or table.", std::move(sources)));
  table.columns.push_back(result::text_column("column", "The column.", std::move(columns)));
  table.columns.push_back(result::text_column("what", "What is suspicious.", std::move(findings)));
  return table;
}

std::string headline(const Inspection& inspection) {
  std::vector<std::string> taken;
  for (const GuessedTable& table : inspection.guess.tables)
    if (taken.empty() || taken.back() != to_text(table.kind)) taken.emplace_back(to_text(table.kind));
  const std::string sources = counted(inspection.profiles.size(), "source");
  if (taken.empty())
    return fmt::format("Inspected {}; none was recognised as order lines, orders, products or customers.",
                       sources);
  return fmt::format("Inspected {}; recognised {}.", sources, join(taken, ", "));
}

std::string outcome(const Inspection& inspection) {
  if (!inspection.trial)
    return fmt::format("It cannot be imported yet: {}{}", inspection.no_trial,
                       inspection.no_trial.ends_with('.') ? "" : ".");
  std::uint64_t read = 0, kept = 0;
  for (const SourceAccount& source : inspection.trial->sources) {
    if (source.record.table != to_text(TableKind::lines)) continue;
    read += source.record.rows_read;
    kept += source.record.rows_kept;
  }
  return fmt::format("With this intake file, {} of {} would become lines of the daybook.",
                     with_thousands(static_cast<std::int64_t>(kept)), counted(read, "row"));
}

}  // namespace

result::Result report_inspection(const Inspection& inspection) {
  result::Result result;
  result.question = "inspect";
  result.headline = {headline(inspection), outcome(inspection)};
  for (std::size_t i = 0; i < inspection.profiles.size(); ++i) {
    result.tables.push_back(columns_table(inspection, i));
    result.tables.push_back(values_table(inspection, i));
  }
  result.tables.push_back(suspicions_table(inspection));
  if (inspection.trial) {
    result.tables.push_back(joins_table(inspection.trial->joins));
    result.tables.push_back(reasons_table(inspection.trial->reasons));
  }
  for (const OpenQuestion& question : inspection.guess.questions)
    result.notes.push_back(fmt::format("{} Choose one in [{}]: {}", question.text, question.table,
                                       join(question.answers, "; ")));
  for (const GuessedTable& table : inspection.guess.tables) {
    std::vector<std::string> by_values;
    for (const GuessedColumn& column : table.columns)
      if (column.why.starts_with(kByValues))
        by_values.push_back(fmt::format("{} = {}", column.name, column.header));
    if (!by_values.empty())
      result.notes.push_back(fmt::format("{}: only the values say what these columns are, so check them: {}.",
                                         inspection.profiles[table.sources.front()].name,
                                         join(by_values, ", ")));
  }
  for (const std::size_t source : inspection.guess.unused)
    result.notes.push_back(
        fmt::format("{} is not used: it was not recognised, or another source is that table already. If it "
                    "contains lines, "
                    "orders, products or customers, name it in the intake file.",
                    inspection.profiles[source].name));
  for (const std::string& name : inspection.empty)
    result.notes.push_back(name + " is empty and was skipped.");
  for (const SourceProfile& source : inspection.profiles) {
    if (source.encoding && *source.encoding != sources::Encoding::utf8)
      result.notes.push_back(fmt::format("{} is read as {}, which was detected.", source.name,
                                         sources::to_text(*source.encoding)));
  }
  return result;
}

}  // namespace pear::intake
