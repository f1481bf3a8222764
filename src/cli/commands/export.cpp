#include "cli/commands/export.hpp"

#include <filesystem>
#include <map>

#include <fmt/format.h>

#include "analysis/options/selection.hpp"
#include "app/run_and_write.hpp"
#include "base/text.hpp"
#include "cli/daybook_argument.hpp"
#include "cli/progress.hpp"
#include "cli/terminal.hpp"
#include "database/address.hpp"
#include "daybook/columns/derived_columns.hpp"
#include "daybook/columns/history_columns.hpp"
#include "daybook/columns/order_history.hpp"
#include "expression/aggregate/windows.hpp"
#include "expression/expression.hpp"
#include "expression/rows/line_view.hpp"
#include "expression/syntax/parse.hpp"
#include "output/sinks/csv_sink.hpp"
#include "output/sinks/sql_sink.hpp"
#include "result/cell_text.hpp"
#include "storage/daybook_reader.hpp"

namespace pear::cli {
namespace {

output::SinkType sink_type(const daybook::ColumnValues& values) {
  switch (static_cast<daybook::ColumnType>(values.index())) {
    case daybook::ColumnType::text:
      return output::SinkType::text;
    case daybook::ColumnType::decimal:
      return output::SinkType::decimal;
    case daybook::ColumnType::date:
      return output::SinkType::date;
    case daybook::ColumnType::time:
      return output::SinkType::time;
    case daybook::ColumnType::flag:
      return output::SinkType::truth;
  }
  return output::SinkType::text;
}

OrError<std::unique_ptr<output::RowSink>> open_sink(const std::string& to,
                                                    const std::vector<output::SinkColumn>& columns,
                                                    const output::CsvStyle& style) {
  return database::is_database_address(to) ? output::sql_sink(to, columns)
                                           : output::csv_sink(to, columns, style);
}

/// "lines.csv" for the value "North" is "lines-north.csv"; for a database the table is "lines_north". A
/// number above 1 distinguishes values that give the same name.
std::string split_target(const std::string& to, const std::string& value, int number) {
  constexpr std::size_t kLongest = 60;  // bytes: file systems and databases limit names
  std::string part = snake_case(value);
  std::size_t end = std::min(part.size(), kLongest);
  while (end < part.size() && end > 0 && (static_cast<unsigned char>(part[end]) & 0xC0U) == 0x80U) --end;
  part.resize(end);
  if (part.empty()) part = value.empty() ? "empty" : "other";
  if (number > 1) part += fmt::format("_{}", number);
  if (database::is_database_address(to))
    return fmt::format("{}_{}", to, part);  // the table's name is at the end
  const std::filesystem::path path(to);
  return (path.parent_path() / fmt::format("{}-{}{}", path.stem().string(), part, path.extension().string()))
      .string();
}

/// One --into with its --where; with --split a sink for each value.
class Target {
 public:
  Target(std::string to, std::optional<expression::Expression> where)
      : to_(std::move(to)), where_(std::move(where)) {}

  /// Without --split there is a file even if no row is chosen.
  OrError<void> begin(const std::vector<output::SinkColumn>& columns, bool split,
                      const output::CsvStyle& style) {
    columns_ = &columns;
    style_ = style;
    if (split) return {};
    PEAR_ASSIGN(sinks_[""].sink, open_sink(to_, columns, style));
    return {};
  }

  OrError<void> choose(const expression::RowView& view, std::size_t begin, std::size_t end) {
    chosen_.reset();
    if (where_) {
      PEAR_ASSIGN(chosen_, where_->evaluate_checked(view, begin, end));
    }
    return {};
  }
  [[nodiscard]] bool takes(std::size_t row_of_block) const {
    return !chosen_ || chosen_->is_true(row_of_block);
  }

  OrError<void> add(const std::vector<std::string>& values, const std::string* split_value) {
    const std::string key = split_value == nullptr ? "" : *split_value;
    auto found = sinks_.find(key);
    if (found == sinks_.end()) {
      constexpr std::size_t kMostOutputs = 500;  // all are open at once
      if (sinks_.size() == kMostOutputs)
        return usage_error(
            fmt::format("--split: the column has more than {} values; none was written.", kMostOutputs));
      int number = 1;
      while (!names_.insert(split_target(to_, key, number)).second) ++number;
      const std::string to = split_target(to_, key, number);
      found = sinks_.emplace(key, Output{}).first;
      PEAR_ASSIGN(found->second.sink, open_sink(to, *columns_, style_));
    }
    ++found->second.rows;
    return found->second.sink->add(values);
  }

  OrError<void> commit(std::vector<std::string>& outputs) {
    for (auto& [value, output] : sinks_) {
      PEAR_TRY(output.sink->commit());
      outputs.push_back(fmt::format("{} ({})", output.sink->name(), counted(output.rows, "line")));
    }
    return {};
  }

 private:
  struct Output {
    std::unique_ptr<output::RowSink> sink;
    std::uint64_t rows = 0;
  };
  std::string to_;
  std::optional<expression::Expression> where_;
  const std::vector<output::SinkColumn>* columns_ = nullptr;
  output::CsvStyle style_;
  std::optional<expression::Values> chosen_;
  std::map<std::string, Output> sinks_;
  std::set<std::string> names_;
};

std::string cell_text(const expression::RowView& view, std::size_t column, std::size_t row) {
  return daybook::value_text(*view.columns[column].values, view.columns[column].member(row));
}

/// The conditions of all --where.
OrError<std::vector<expression::Tree>> conditions(const Arguments& arguments) {
  std::vector<expression::Tree> trees;
  for (const std::string& where : arguments.all("where")) {
    auto tree = expression::parse_tree(where);
    if (!tree) return usage_error("--where: " + tree.error().message);
    trees.push_back(std::move(*tree));
  }
  return trees;
}

bool is_same_output(const std::string& one, const std::string& other) {
  if (database::is_database_address(one) || database::is_database_address(other)) return one == other;
  const auto place = [](const std::string& path) {
    return std::filesystem::weakly_canonical(std::filesystem::absolute(path));
  };
  return place(one) == place(other);
}

OrError<std::vector<Target>> targets(const Arguments& arguments, const std::vector<expression::Tree>& wheres,
                                     const expression::RowView& view, const std::string& daybook) {
  std::vector<std::string> tos = arguments.all("into");
  if (tos.empty()) tos.push_back(std::filesystem::path(daybook).stem().string() + "-lines.csv");
  if (wheres.size() > 1 && wheres.size() != tos.size())
    return usage_error(
        fmt::format("{} --where and {} --into: each --where needs its --into, in the same order.",
                    wheres.size(), tos.size()));
  if (wheres.size() < 2 && tos.size() > 1)
    return usage_error(
        fmt::format("{} --into need as many --where, to say which lines go where.", tos.size()));
  for (std::size_t i = 0; i < tos.size(); ++i)
    for (std::size_t j = 0; j < i; ++j)
      if (is_same_output(tos[i], tos[j]))
        return usage_error(fmt::format(
            "--into {} and --into {} are the same file or table. Name a different one.", tos[j], tos[i]));
  std::vector<Target> all;
  for (std::size_t i = 0; i < tos.size(); ++i) {
    std::optional<expression::Expression> where;
    if (i < wheres.size()) {
      auto compiled = expression::Expression::compile_condition(wheres[i].root, wheres[i].text, view);
      if (!compiled) return usage_error("--where: " + compiled.error().message);
      where = std::move(*compiled);
    }
    all.emplace_back(tos[i], std::move(where));
  }
  return all;
}

/// The columns of --with: those along a customer's history, which are not written otherwise.
OrError<std::set<std::string>> further_columns(const Arguments& arguments,
                                               const std::vector<std::string>& known) {
  std::set<std::string> further;
  if (!arguments.has("with")) return further;
  for (const std::string& name : comma_separated(arguments.value_or("with", ""))) {
    if (std::find(known.begin(), known.end(), name) == known.end())
      return usage_error(
          fmt::format("--with: there is no column {}.{}", in_quotes(name), did_you_mean(name, known)));
    further.insert(name);
  }
  return further;
}

/// Derived columns, but those along a customer's history only where they are used.
std::vector<std::string> columns_to_complete(const std::vector<std::string>& known,
                                             const std::vector<expression::Tree>& wheres,
                                             const std::set<std::string>& further) {
  std::set<std::string> used = further;
  for (const expression::Tree& tree : wheres)
    for (const std::string& name : expression::columns_of(tree)) used.insert({name, snake_case(name)});
  std::vector<std::string> names;
  for (const std::string& name : known)
    if (!daybook::is_order_history_column(name) || used.contains(name)) names.push_back(name);
  return names;
}

/// Positions of the columns that are written: the columns of the lines, and those derived from them. A
/// customer's history and aggregates are left out, because somebody would add them up line by line.
std::vector<std::size_t> written_columns(const expression::RowView& view,
                                         const std::map<std::string, expression::Grain>& windows,
                                         const std::set<std::string>& further) {
  std::vector<std::size_t> positions;
  for (std::size_t i = 0; i < view.columns.size(); ++i) {
    const std::string& name = view.columns[i].name;
    const bool is_history = daybook::is_history_column(name) || daybook::is_order_history_column(name);
    if ((!is_history || further.contains(name)) && !windows.contains(name)) positions.push_back(i);
  }
  return positions;
}

OrError<void> write_lines(const expression::RowView& view, const std::vector<std::size_t>& written,
                          std::vector<Target>& targets, std::optional<std::size_t> split,
                          analysis::DaySpan days, bool show_progress) {
  ProgressBar bar(show_progress);
  std::vector<std::string> values(written.size());
  const expression::ViewColumn& dates = view.columns[view.find(daybook::role::kOrderDate)];
  const auto& day_of = std::get<daybook::DateValues>(*dates.values).days;
  for (std::size_t begin = 0; begin < view.rows; begin += expression::Expression::kBlock) {
    const std::size_t end = std::min(view.rows, begin + expression::Expression::kBlock);
    for (Target& target : targets) PEAR_TRY(target.choose(view, begin, end));
    for (std::size_t row = begin; row < end; ++row) {
      const Date day{day_of[dates.member(row)]};
      if (day < days.first || day > days.last) continue;
      bool made = false;
      for (Target& target : targets) {
        if (!target.takes(row - begin)) continue;
        for (std::size_t i = 0; !made && i < values.size(); ++i) values[i] = cell_text(view, written[i], row);
        made = true;
        const std::string split_value = split ? cell_text(view, *split, row) : "";
        PEAR_TRY(target.add(values, split ? &split_value : nullptr));
      }
    }
    bar.show(end, view.rows, "writing", counted(end, "line"));
  }
  return {};
}

OrError<void> run_export(const Arguments& arguments) {
  PEAR_ASSIGN(const std::vector<expression::Tree> wheres, conditions(arguments));
  analysis::OptionValues of_days;
  for (const char* name : {"from", "to"})
    if (const std::string* value = arguments.find(name)) of_days.emplace_back(name, *value);
  PEAR_ASSIGN(const analysis::Selection selection, analysis::read_selection(of_days));
  PEAR_ASSIGN(const std::string path, daybook_path(arguments));
  PEAR_ASSIGN(storage::DaybookFile file, storage::DaybookFile::open(path));
  PEAR_ASSIGN(daybook::Daybook stored, file.load_all());
  std::vector<std::string> known;
  for (const storage::DaybookInfo::ColumnInfo& column : file.info().columns) known.push_back(column.name);
  known.emplace_back(daybook::role::kProductId);
  known = daybook::known_columns(known);
  PEAR_ASSIGN(const std::set<std::string> further, further_columns(arguments, known));
  std::vector<expression::Window> windows;
  for (const expression::Tree& tree : wheres)
    windows.insert(windows.end(), tree.windows.begin(), tree.windows.end());
  PEAR_ASSIGN(
      const expression::WithWindows prepared,
      expression::add_windows(
          daybook::completed(std::move(stored), columns_to_complete(known, wheres, further)), windows));
  const expression::LineView lines(prepared.daybook, prepared.grains);
  const expression::RowView& view = lines.rows();
  PEAR_ASSIGN(const analysis::DaySpan days, analysis::days_of(selection, *prepared.daybook.parts().data_end));
  const std::vector<std::size_t> written = written_columns(view, prepared.grains, further);
  std::vector<output::SinkColumn> columns;
  for (const std::size_t position : written)
    columns.push_back({view.columns[position].name, sink_type(*view.columns[position].values)});
  std::vector<std::string> names;
  for (const expression::ViewColumn& column : view.columns) names.push_back(column.name);
  std::optional<std::size_t> split;
  if (const std::string* name = arguments.find("split")) {
    split = view.find(*name);
    if (*split == view.columns.size())
      return usage_error(
          fmt::format("--split: {} has no column {}.{}", path, in_quotes(*name), did_you_mean(*name, names)));
  }
  PEAR_ASSIGN(std::vector<Target> all, targets(arguments, wheres, view, path));
  PEAR_ASSIGN(const output::CsvStyle style, app::csv_style(arguments.values));
  for (Target& target : all) PEAR_TRY(target.begin(columns, split.has_value(), style));
  PEAR_TRY(write_lines(view, written, all, split, days, !arguments.has("quiet")));
  std::vector<std::string> outputs;
  for (Target& target : all) PEAR_TRY(target.commit(outputs));
  std::string text =
      fmt::format("{} of {}, {}.\n", counted(view.rows, "line"),
                  std::filesystem::path(path).filename().string(), counted(columns.size(), "column"));
  for (const std::string& each : outputs) text += fmt::format("Written     {}\n", each);
  if (!arguments.has("quiet")) print(text);
  return {};
}

}  // namespace

Command export_command() {
  return {
      "export",
      "[DAYBOOK]",
      1,
      "writes the cleaned lines, whole, filtered or split, to files or a database",
      "Writes the lines of a daybook, a row each, with all columns of their order, customer and product "
      "and\nthe derived ones (cost, margin, year, quarter, month, month_of_year, week, weekday, hour). "
      "To a CSV\nfile, or into a new table of a database in one transaction. Several --where and --into "
      "are used in pairs,\nreading the data once.",
      {"pear-thread export shop.daybook --into lines.csv",
       "pear-thread export shop.daybook --into region.csv --split region",
       "pear-thread export shop.daybook --where \"year = 2024\" --into \"sqlite:///out.db?table=lines\"",
       "pear-thread export --where \"amount > 100\" --into big.csv --where \"is_return\" --into returns.csv"},
      {{"into", "PATH|URL", "NAME-lines.csv", "a CSV file, or a database with ?table=NAME; may be repeated",
        true},
       {"where", "CONDITION", "",
        "only lines that meet an SQL condition; may be repeated, one for each --into", true},
       {"from", "DATE", "", "only orders from this day on"},
       {"to", "DATE", "", "only orders up to this day"},
       {"with", "COLUMN,...", "",
        "further columns, of a customer's history: order_number, customer_orders, ..."},
       {"split", "COLUMN", "", "a separate file or table for each value"},
       app::csv_options()[0],
       app::csv_options()[1]},
      run_export};
}

}  // namespace pear::cli
