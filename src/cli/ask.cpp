#include "cli/ask.hpp"

#include <algorithm>
#include <chrono>
#include <filesystem>
#include <utility>

#include <fmt/format.h>
#include <spdlog/spdlog.h>

#include "base/text.hpp"
#include "cli/daybook_argument.hpp"
#include "cli/progress.hpp"
#include "cli/side_table.hpp"
#include "cli/stopwatch.hpp"
#include "cli/terminal.hpp"
#include "output/atomic_file.hpp"
#include "output/terminal_writer.hpp"
#include "question/asking.hpp"
#include "storage/daybook_file.hpp"

namespace pear::cli {
namespace {

const std::vector<OptionInfo>& shared_options() {
  static const std::vector<OptionInfo> kOptions = {
      {"out", "FOLDER", "pear-out", "where the files go"},
      {"name", "STEM", "the command's name", "what the files are called"},
      {"format", "csv,json,xlsx,md", "csv", "how tables are written; several with commas between them"},
      {"figure", "svg,png|none", "svg,png", "which figures are drawn"},
      {"top", "N", "10", "rows shown here; the files hold all"}};
  return kOptions;
}

/// Words with commas between them, each at most once, as positions among those that there are.
OrError<std::vector<std::size_t>> word_list(std::string_view option, const std::string& text,
                                            const std::vector<std::string>& words) {
  std::vector<std::size_t> found;
  std::size_t begin = 0;
  while (begin <= text.size()) {
    const std::size_t end = std::min(text.find(',', begin), text.size());
    PEAR_ASSIGN(const std::size_t word, parse_word(option, text.substr(begin, end - begin), words));
    if (std::find(found.begin(), found.end(), word) == found.end()) found.push_back(word);
    begin = end + 1;
  }
  return found;
}

OrError<std::vector<FigureFormat>> figure_formats(const std::string& text) {
  constexpr std::size_t kNone = 2;
  PEAR_ASSIGN(const std::vector<std::size_t> words, word_list("figure", text, {"svg", "png", "none"}));
  std::vector<FigureFormat> formats;
  for (const std::size_t word : words) {
    if (word == kNone && words.size() == 1) return formats;
    if (word == kNone) return usage_error("--figure takes none alone, without formats beside it.");
    formats.push_back(static_cast<FigureFormat>(word));
  }
  return formats;
}

OrError<std::vector<TableFormat>> table_formats(const std::string& text) {
  PEAR_ASSIGN(const std::vector<std::size_t> words, word_list("format", text, {"csv", "json", "xlsx", "md"}));
  std::vector<TableFormat> formats;
  for (const std::size_t word : words) formats.push_back(static_cast<TableFormat>(word));
  return formats;
}

/// Whether a question has given a shared option a meaning of its own.
bool has_own(const Question& question, std::string_view option) {
  return std::any_of(question.options.begin(), question.options.end(),
                     [&](const OptionInfo& own) { return own.name == option; });
}

OrError<FilePlan> file_plan(const Arguments& arguments, const Question& question) {
  FilePlan plan{arguments.value_or("out", "pear-out"),
                has_own(question, "name") ? question.name : arguments.value_or("name", question.name),
                {}};
  if (plan.stem.empty() || plan.stem.find('/') != std::string::npos)
    return usage_error(
        fmt::format("--name takes the name of a file without folder, not {}.", in_quotes(plan.stem)));
  PEAR_ASSIGN(plan.figures, figure_formats(arguments.value_or("figure", "svg,png")));
  PEAR_ASSIGN(plan.tables, table_formats(arguments.value_or("format", "csv")));
  return plan;
}

/// Those of the question, and those that say which lines it looks at.
std::vector<OptionInfo> shaping_options(const Question& question) {
  std::vector<OptionInfo> options = question.options;
  for (const OptionInfo& option : infos(selection_options())) options.push_back(option);
  return options;
}

/// A value as a shell takes it.
std::string shell_word(const std::string& value) {
  const bool plain = value.find_first_of(" \t'\"()<>*$&|;\\?") == std::string::npos && !value.empty();
  if (plain) return value;
  std::string quoted = "\"";
  for (const char c : value) {
    if (c == '"' || c == '\\' || c == '$' || c == '`') quoted += '\\';
    quoted += c;
  }
  return quoted + "\"";
}

/// The command line as far as it shapes the answer: the same for any number of threads and any folder.
std::string telling_command(const Question& question, const Asking& asking) {
  std::string line = "pear-thread " + question.name;
  for (const auto& [name, value] : asking.values)
    if (name == question.word) line += " " + shell_word(value);
  line += " " + std::filesystem::path(asking.daybook).filename().string();
  for (const auto& [name, value] : asking.values) {
    for (const OptionInfo& option : shaping_options(question)) {
      if (option.name != name || name == question.word) continue;
      line += option.placeholder.empty() ? " --" + name : fmt::format(" --{} {}", name, shell_word(value));
    }
  }
  return line;
}

/// The first word, where it is the value of an option: unless the question was given another way to tell what
/// it is about, as with --name.
void take_word(const Question& question, Arguments& arguments) {
  if (question.word.empty() || arguments.words.empty() || arguments.has(question.word)) return;
  const bool told_otherwise =
      std::any_of(question.options.begin(), question.options.end(),
                  [&](const OptionInfo& option) { return arguments.has(option.name); });
  if (told_otherwise) return;
  arguments.values.emplace_back(question.word, arguments.words.front());
  arguments.words.erase(arguments.words.begin());
}

OrError<void> run_question(const Question& question, const Arguments& arguments) {
  TerminalStyle style = terminal_style();
  constexpr std::size_t kRowsOfOwnChoice = 60;
  style.top = kRowsOfOwnChoice;
  if (!has_own(question, "top")) {
    const std::string rows = arguments.value_or("top", std::to_string(question.rows_shown));
    PEAR_ASSIGN(const std::int64_t top, parse_whole("top", rows, 0, 1'000'000));
    style.top = static_cast<std::size_t>(top);
    style.top_is_asked = arguments.has("top");
  }
  Asking asking;
  Arguments rest = arguments;
  take_word(question, rest);
  PEAR_ASSIGN(asking.daybook, daybook_path(rest));
  PEAR_ASSIGN(asking.files, file_plan(arguments, question));
  asking.values = rest.values;
  asking.show_progress = !arguments.has("quiet");
  PEAR_ASSIGN(const Answer answer, ask(question, asking));
  for (const std::string& warning : answer.files.warnings) spdlog::warn("{}", warning);
  if (!arguments.has("quiet"))
    print(render_result(answer.result, answer.selection, answer.files.paths, style));
  return {};
}

}  // namespace

OrError<void> require_checks(const Result& result) {
  std::vector<std::string> failed;
  for (const Check& check : result.checks) {
    if (!check.holds) failed.push_back(check.statement);
  }
  if (failed.empty()) return {};
  return internal_error(
      fmt::format("{} failed a check of its own: {}. Nothing was written. This is a defect of "
                  "pear-thread or of the daybook; see pear-thread status --verify.",
                  result.question, join(failed, "; ")));
}

OrError<Answer> ask(const Question& question, const Asking& asking) {
  Stopwatch stopwatch;
  PEAR_ASSIGN(const PreparedQuestion prepared, question.prepare(asking.values));
  PEAR_ASSIGN(const Selection selection, read_selection(asking.values));
  PEAR_ASSIGN(DaybookFile file, DaybookFile::open(asking.daybook));
  PEAR_TRY(make_folder(asking.files.folder));
  DaybookSource source{
      {std::string(role::kOrderId), std::string(role::kCustomerId), std::string(role::kProductId)},
      {},
      file.info().provenance.currency,
      [&](const std::vector<std::string>& columns) -> OrError<Daybook> {
        auto daybook = file.load(columns);
        stopwatch.lap("daybook read");
        return daybook;
      }};
  ProgressBar bar(asking.show_progress);
  PEAR_ASSIGN(source.side_tables, read_side_tables(question.options, asking.values));
  source.progress = [&](std::uint64_t done, std::uint64_t all) { bar.show(done, all, question.name); };
  for (const DaybookInfo::ColumnInfo& column : file.info().columns) {
    source.columns.push_back(column.name);
    source.levels.emplace(column.name, column.level);
  }
  Answer answer;
  PEAR_ASSIGN(answer.result, pear::answer(prepared, selection, source));
  stopwatch.lap("question answered");
  PEAR_TRY(require_checks(answer.result));
  answer.selection =
      fmt::format("{} of {}", told(selection), std::filesystem::path(asking.daybook).filename().string());
  const Trail trail{telling_command(question, asking),
                    std::filesystem::path(asking.daybook).filename().string(), file.info().fingerprint,
                    answer.selection};
  PEAR_ASSIGN(answer.files, write_result(answer.result, trail, asking.files));
  stopwatch.lap("files written");
  return answer;
}

Command question_command(const Question& question) {
  std::vector<OptionInfo> options = shaping_options(question);
  for (const OptionInfo& shared : shared_options()) {  // a question may give one a meaning of its own
    if (!has_own(question, shared.name)) options.push_back(shared);
    if (shared.name == "top" && !has_own(question, "top"))
      options.back().default_text = std::to_string(question.rows_shown);
  }
  return {question.name,
          question.word.empty() ? "[DAYBOOK]" : "ID [DAYBOOK]",
          question.word.empty() ? std::size_t{1} : std::size_t{2},
          question.summary,
          question.description,
          question.examples,
          options,
          [&question](const Arguments& arguments) { return run_question(question, arguments); }};
}

}  // namespace pear::cli
