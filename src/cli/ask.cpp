#include "cli/ask.hpp"

#include <algorithm>
#include <utility>

#include <fmt/format.h>
#include <spdlog/spdlog.h>

#include "app/run_and_write.hpp"
#include "cli/daybook_argument.hpp"
#include "cli/progress.hpp"
#include "cli/stopwatch.hpp"
#include "cli/terminal.hpp"
#include "output/tables/terminal_writer.hpp"
#include "study/study_file.hpp"

namespace pear::cli {
namespace {

/// The first word, or the second if the first is a daybook, is the value of an option: unless the question
/// was given that value as an option.
void take_word(const analysis::Question& question, Arguments& arguments) {
  if (question.word.empty() || arguments.words.empty() || arguments.has(question.word)) return;
  const auto is_source = [](const std::string& word) {
    return word.ends_with(".daybook") || app::is_intake_file(word);
  };
  const bool daybook_first =
      arguments.words.size() > 1 && is_source(arguments.words.front()) && !is_source(arguments.words.back());
  const auto word = arguments.words.begin() + (daybook_first ? 1 : 0);
  arguments.values.emplace_back(question.word, *word);
  arguments.words.erase(word);
}

/// The statements, each with a line before it that says so.
OrError<void> print_statements(const analysis::Question& question, const app::RunRequest& asking) {
  PEAR_ASSIGN(const std::vector<std::string> statements, app::explain(question, asking));
  std::string text =
      "-- None of these statements was run. '9999-12-31' takes the place of the last day of the data.\n";
  for (std::size_t i = 0; i < statements.size(); ++i)
    text += fmt::format("\n-- Statement {} of {}\n{};\n", i + 1, statements.size(), statements[i]);
  print(text);
  return {};
}

OrError<void> run_question(const analysis::Question& question, const Arguments& arguments) {
  output::TerminalStyle style = terminal_style();
  PEAR_ASSIGN(style.top, app::rows_to_show(question, arguments.values));
  style.top_is_asked = arguments.has("top");
  app::RunRequest asking;
  Arguments rest = arguments;
  take_word(question, rest);
  PEAR_ASSIGN(asking.daybook, daybook_path(rest));
  PEAR_ASSIGN(asking.files,
              app::file_plan(question, arguments.values, arguments.value_or("out", "pear-out")));
  asking.values = rest.values;
  if (arguments.has("save-as") && app::is_intake_file(asking.daybook))
    return usage_error(fmt::format(
        "--save-as: a study asks a daybook, and {} names a database. Import it first.", asking.daybook));
  if (arguments.has("explain")) return print_statements(question, asking);
  Stopwatch stopwatch;
  asking.lap = [&](std::string_view what) { stopwatch.lap(what); };
  const auto ask_with_progress = [&]() -> OrError<app::Answer> {
    ProgressBar bar(!arguments.has("quiet"));  // gone before anything is printed
    asking.progress = [&](const std::string& stage, std::uint64_t done, std::uint64_t all) {
      bar.show(done, all, stage);
    };
    return app::run_and_write(question, asking);
  };
  PEAR_ASSIGN(const app::Answer answer, ask_with_progress());
  for (const std::string& warning : answer.files.warnings) spdlog::warn("{}", warning);
  if (const std::string* study = arguments.find("save-as"))
    PEAR_TRY(study::save_in_study(*study, asking.daybook, question, asking.values));
  if (!arguments.has("quiet"))
    print(output::render_result(answer.result, answer.trail.selection, answer.files.paths, style));
  return {};
}

}  // namespace

Command question_command(const analysis::Question& question) {
  std::vector<analysis::OptionInfo> options = app::shaping_options(question);
  for (const analysis::OptionInfo& shared : app::writing_options(question)) options.push_back(shared);
  options.push_back(
      {"explain", "", "", "print the SQL that an intake file's database would be asked, and run none"});
  options.push_back(
      {"save-as", "FILE", "", "append the question to a study file (.toml), which is created if missing"});
  return {question.name,
          question.word.empty() ? "[DAYBOOK]" : "TEXT [DAYBOOK]",
          question.word.empty() ? std::size_t{1} : std::size_t{2},
          question.summary,
          question.description,
          question.examples,
          options,
          [&question](const Arguments& arguments) { return run_question(question, arguments); }};
}

}  // namespace pear::cli
