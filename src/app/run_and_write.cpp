#include "app/run_and_write.hpp"

#include <algorithm>
#include <filesystem>
#include <utility>

#include <fmt/format.h>

#include "analysis/run_question.hpp"
#include "app/side_table.hpp"
#include "app/warehouse_of_plan.hpp"
#include "base/text.hpp"
#include "files/atomic_file.hpp"
#include "intake/plan/intake_file.hpp"
#include "pushdown/ask_database.hpp"
#include "storage/daybook_reader.hpp"

namespace pear::app {
namespace {

/// Words separated by commas, each at most once, as positions among those that exist.
OrError<std::vector<std::size_t>> word_list(std::string_view option, const std::string& text,
                                            const std::vector<std::string>& words) {
  std::vector<std::size_t> found;
  for (const std::string& part : comma_separated(text)) {
    PEAR_ASSIGN(const std::size_t word, analysis::parse_word(option, part, words));
    if (std::find(found.begin(), found.end(), word) == found.end()) found.push_back(word);
  }
  return found;
}

OrError<std::vector<output::FigureFormat>> figure_formats(const std::string& text) {
  constexpr std::size_t kNone = 2;
  PEAR_ASSIGN(const std::vector<std::size_t> words, word_list("figure", text, {"svg", "png", "none"}));
  std::vector<output::FigureFormat> formats;
  for (const std::size_t word : words) {
    if (word == kNone && words.size() == 1) return formats;
    if (word == kNone) return usage_error("--figure none cannot be combined with other formats.");
    formats.push_back(static_cast<output::FigureFormat>(word));
  }
  return formats;
}

OrError<std::vector<output::TableFormat>> table_formats(const std::string& text) {
  PEAR_ASSIGN(const std::vector<std::size_t> words, word_list("format", text, {"csv", "json", "xlsx", "md"}));
  std::vector<output::TableFormat> formats;
  for (const std::size_t word : words) formats.push_back(static_cast<output::TableFormat>(word));
  return formats;
}

/// A value as a shell reads it.
std::string shell_word(const std::string& value) {
  constexpr std::string_view kPlain =
      "abcdefghijklmnopqrstuvwxyzABCDEFGHIJKLMNOPQRSTUVWXYZ0123456789_-+./:,=@%";
  const auto is_plain = [&](char c) {
    return static_cast<unsigned char>(c) >= 0x80 || kPlain.find(c) != std::string_view::npos;
  };
  if (!value.empty() && std::all_of(value.begin(), value.end(), is_plain)) return value;
  std::string quoted = "\"";
  for (const char c : value) {
    if (c == '"' || c == '\\' || c == '$' || c == '`') quoted += '\\';
    quoted += c;
  }
  return quoted + "\"";
}

}  // namespace

std::string value_or(const analysis::OptionValues& values, std::string_view option,
                     const std::string& otherwise) {
  for (const auto& [name, value] : values)
    if (name == option) return value;
  return otherwise;
}

std::vector<analysis::OptionInfo> shaping_options(const analysis::Question& question) {
  std::vector<analysis::OptionInfo> options = question.options;
  for (analysis::OptionInfo& option : analysis::shared_options(question))
    options.push_back(std::move(option));
  return options;
}

std::array<analysis::OptionInfo, 2> csv_options() {
  return {
      {{"formulas", "keep|text", "keep",
        "texts in CSV files that a spreadsheet takes for formulas: unchanged, or with an apostrophe before "
        "them"},
       {"bom", "", "", "begin CSV files with a byte order mark, for spreadsheets that misread accents"}}};
}

OrError<output::CsvStyle> csv_style(const analysis::OptionValues& values) {
  PEAR_ASSIGN(const std::vector<std::size_t> words,
              word_list("formulas", value_or(values, "formulas", "keep"), {"keep", "text"}));
  if (words.size() > 1) return usage_error("--formulas takes one word: keep or text.");
  return output::CsvStyle{static_cast<output::Formulas>(words.front()), !value_or(values, "bom", "").empty()};
}

std::vector<analysis::OptionInfo> writing_options(const analysis::Question& question) {
  return {{"out", "FOLDER", "pear-out", "the folder for the files"},
          {"name", "STEM", "the command's name", "the name of the files"},
          {"format", "csv,json,xlsx,md", "csv", "the formats of tables, separated by commas"},
          {"figure", "svg,png|none", "svg,png", "the formats of figures, separated by commas"},
          csv_options()[0],
          csv_options()[1],
          {"top", "N", std::to_string(question.rows_shown), "rows shown here; the files contain all rows"}};
}

OrError<output::FilePlan> file_plan(const analysis::Question& question, const analysis::OptionValues& values,
                                    const std::string& folder) {
  output::FilePlan plan{folder, value_or(values, "name", question.name), {}};
  if (plan.stem.empty() || plan.stem.find('/') != std::string::npos)
    return usage_error(
        fmt::format("--name needs the name of a file without a folder, not {}.", in_quotes(plan.stem)));
  if (plan.stem == "datapackage")
    return usage_error(
        "--name datapackage: that is the file that describes the others. Choose another name.");
  PEAR_ASSIGN(plan.figures, figure_formats(value_or(values, "figure", "svg,png")));
  PEAR_ASSIGN(plan.csv, csv_style(values));
  PEAR_ASSIGN(plan.tables, table_formats(value_or(values, "format", "csv")));
  return plan;
}

OrError<std::size_t> rows_to_show(const analysis::Question& question, const analysis::OptionValues& values) {
  const std::string rows = value_or(values, "top", std::to_string(question.rows_shown));
  PEAR_ASSIGN(const std::int64_t top, analysis::parse_whole("top", rows, 0, 1'000'000));
  return static_cast<std::size_t>(top);
}

std::string command_text(const analysis::Question& question, const std::string& daybook,
                         const analysis::OptionValues& values) {
  std::string line = "pear-thread " + question.name;
  for (const auto& [name, value] : values)
    if (name == question.word) line += " " + shell_word(value);
  line += " " + std::filesystem::path(daybook).filename().string();
  for (const auto& [name, value] : values) {
    for (const analysis::OptionInfo& option : shaping_options(question)) {
      if (option.name != name || name == question.word) continue;
      line += option.placeholder.empty() ? " --" + name : fmt::format(" --{} {}", name, shell_word(value));
    }
  }
  return line;
}

OrError<void> require_checks(const result::Result& result) {
  std::vector<std::string> failed;
  for (const result::Check& check : result.checks) {
    if (!check.holds) failed.push_back(check.statement);
  }
  if (failed.empty()) return {};
  return internal_error(
      fmt::format("{} failed a check of its own results: {}. Nothing was written. This is a defect of "
                  "pear-thread or of the daybook; run pear-thread status --verify.",
                  result.question, join(failed, "; ")));
}

namespace {

/// A question and where its progress is reported.
struct Asking {
  const analysis::Question& question;
  const RunRequest& request;
  const analysis::PreparedQuestion& prepared;
  const analysis::SharedOptions& shared;
  std::string name;  ///< of the daybook or intake file

  void lap(std::string_view what) const {
    if (request.lap) request.lap(what);
  }
  void report(const std::string& stage, std::uint64_t done, std::uint64_t all) const {
    if (request.progress) request.progress(stage, done, all);
  }
};

/// The result, and what the trail says of its source.
struct FromSource {
  result::Result result;
  std::string fingerprint;
};

/// The daybook that an option names to learn from, too.
OrError<std::optional<storage::DaybookFile>> learned_file(const Asking& asking, const std::string& currency) {
  for (const auto& [name, value] : asking.request.values)
    for (const analysis::OptionInfo& option : asking.question.options) {
      if (!option.names_daybook || option.name != name) continue;
      PEAR_ASSIGN(storage::DaybookFile file, storage::DaybookFile::open(value));
      const std::string& other = file.info().provenance.currency;
      if (!other.empty() && !currency.empty() && other != currency)
        return data_error(
            fmt::format("--{}: {} is in {}, and {} is in {}. Amounts of two currencies do not add up.", name,
                        value, other, asking.request.daybook, currency));
      return std::optional(std::move(file));
    }
  return std::nullopt;
}

OrError<FromSource> ask_daybook(const Asking& asking) {
  PEAR_ASSIGN(storage::DaybookFile file, storage::DaybookFile::open(asking.request.daybook));
  PEAR_TRY(files::make_folder(asking.request.files.folder));
  analysis::DaybookSource source{
      {std::string(daybook::role::kOrderId), std::string(daybook::role::kCustomerId),
       std::string(daybook::role::kProductId)},
      {},
      file.info().provenance.currency,
      [&](const std::vector<std::string>& columns) -> OrError<daybook::Daybook> {
        asking.report("reading " + asking.name, 0, 0);
        auto daybook = file.load(columns);
        asking.lap("daybook read");
        asking.report(asking.question.name, 0, 0);
        return daybook;
      }};
  PEAR_ASSIGN(std::optional<storage::DaybookFile> learned,
              learned_file(asking, file.info().provenance.currency));
  if (learned)
    source.load_learned = [&](const std::vector<std::string>& columns) { return learned->load(columns); };
  PEAR_ASSIGN(source.side_tables, read_side_tables(asking.question.options, asking.request.values));
  source.one_in = learned ? 0 : file.info().provenance.sample;
  source.progress = [&](std::uint64_t done, std::uint64_t all) {
    asking.report(asking.question.name, done, all);
  };
  for (const storage::DaybookInfo::ColumnInfo& column : file.info().columns) {
    source.columns.push_back(column.name);
    source.levels.emplace(column.name, column.level);
  }
  PEAR_ASSIGN(result::Result result, pear::analysis::run_question(asking.prepared, asking.shared, source));
  return FromSource{std::move(result), file.info().fingerprint};
}

/// An intake file's database, and what is asked of it.
struct OpenedDatabase {
  database::DatabaseAddress address;
  pushdown::Session session;
  pushdown::Warehouse warehouse;
};

OrError<OpenedDatabase> open_database(const std::string& intake_file, bool explains) {
  PEAR_ASSIGN(const intake::IntakePlan plan, intake::read_intake_file(intake_file));
  PEAR_ASSIGN(const database::DatabaseAddress address, database_of(plan));
  PEAR_ASSIGN(pushdown::Session session, pushdown::Session::open(address, explains));
  PEAR_ASSIGN(pushdown::Warehouse warehouse, warehouse_of(plan, session));
  return OpenedDatabase{address, std::move(session), std::move(warehouse)};
}

OrError<FromSource> ask_database(const Asking& asking) {
  asking.report("connecting", 0, 0);
  PEAR_ASSIGN(OpenedDatabase opened, open_database(asking.request.daybook, false));
  PEAR_TRY(files::make_folder(asking.request.files.folder));
  asking.report(asking.question.name, 0, 0);
  PEAR_ASSIGN(result::Result result,
              pushdown::ask_database({asking.question, asking.request.values, asking.prepared, asking.shared},
                                     opened.warehouse, opened.session));
  asking.lap(fmt::format("database asked: {}, {} bytes received",
                         counted(opened.session.statements().size(), "statement"),
                         with_thousands(static_cast<std::int64_t>(opened.session.bytes()))));
  return FromSource{std::move(result), "answered in " + database::shown(opened.address)};
}

}  // namespace

bool is_intake_file(const std::string& path) { return std::filesystem::path(path).extension() == ".toml"; }

OrError<Answer> run_and_write(const analysis::Question& question, const RunRequest& request) {
  PEAR_ASSIGN(const analysis::PreparedQuestion prepared, question.prepare(request.values));
  PEAR_ASSIGN(const analysis::SharedOptions shared, analysis::read_shared_options(question, request.values));
  const Asking asking{question, request, prepared, shared,
                      std::filesystem::path(request.daybook).filename().string()};
  PEAR_ASSIGN(FromSource answered,
              is_intake_file(request.daybook) ? ask_database(asking) : ask_daybook(asking));
  asking.lap("question answered");
  PEAR_TRY(require_checks(answered.result));
  Answer answer;
  answer.result = std::move(answered.result);
  answer.trail = {command_text(question, request.daybook, request.values), asking.name, answered.fingerprint,
                  fmt::format("{} of {}", answer.result.selection, asking.name)};
  const auto report = [&](const std::string& stage, std::uint64_t done, std::uint64_t all) {
    asking.report(stage, done, all);
  };
  PEAR_ASSIGN(answer.files, output::write_result(answer.result, answer.trail, request.files, report));
  asking.lap("files written");
  return answer;
}

OrError<std::vector<std::string>> explain(const analysis::Question& question, const RunRequest& request) {
  if (!is_intake_file(request.daybook))
    return usage_error(fmt::format(
        "--explain shows what a database is asked, but {} is a daybook. Name an intake file whose "
        "lines are in a database.",
        request.daybook));
  PEAR_ASSIGN(const analysis::PreparedQuestion prepared, question.prepare(request.values));
  PEAR_ASSIGN(const analysis::SharedOptions shared, analysis::read_shared_options(question, request.values));
  PEAR_ASSIGN(OpenedDatabase opened, open_database(request.daybook, true));
  return pushdown::explain({question, request.values, prepared, shared}, opened.warehouse, opened.session);
}

}  // namespace pear::app
