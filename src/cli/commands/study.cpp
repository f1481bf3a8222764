#include "cli/commands/study.hpp"

#include <algorithm>
#include <filesystem>
#include <optional>

#include <fmt/format.h>
#include <spdlog/spdlog.h>

#include "base/text.hpp"
#include "cli/commands/import_run.hpp"
#include "cli/commands/study_run.hpp"
#include "cli/terminal.hpp"
#include "files/whole_file.hpp"
#include "intake/plan/intake_file.hpp"
#include "output/tables/readable.hpp"
#include "study/delivery.hpp"

namespace pear::cli {
namespace {

/// Keeps the questions that --question names. Files about all of them are not rewritten then.
OrError<void> keep_only(study::Study& study, const std::vector<std::string>& wanted) {
  if (wanted.empty()) return {};
  std::vector<std::string> names;
  for (const study::StudyQuestion& question : study.questions) names.push_back(question.files.stem);
  for (const std::string& name : wanted)
    if (std::find(names.begin(), names.end(), name) == names.end())
      return usage_error(
          fmt::format("--question {}: {} has no question of that name.{} Its questions are {}.",
                      in_quotes(name), study.file, did_you_mean(name, names), join(names, ", ")));
  study.is_whole = false;
  study.workbook.clear();
  study.templates.clear();
  std::erase_if(study.questions, [&](const study::StudyQuestion& question) {
    return std::find(wanted.begin(), wanted.end(), question.files.stem) == wanted.end();
  });
  return {};
}

std::string answers_text(const study::StudyAnswers& answers, const std::vector<std::string>& paths,
                         const output::TerminalStyle& style) {
  std::string text = answers.study->title + "\n";
  for (const study::StudyAnswer& answer : answers.answers) {
    text += fmt::format("\n{}\n", heading(answer.name(), answer.title(), style));
    const std::vector<std::string> sentences =
        answer.answer ? answer.answer->result.headline
                      : std::vector<std::string>{"Failed: " + answer.failure.message};
    for (const std::string& sentence : sentences)
      for (const std::string& line : output::wrapped(sentence, style.width - 2)) text += "  " + line + "\n";
  }
  const std::vector<std::string> written = output::wrapped(join(paths, ", "), style.width - 11);
  return text + "\nWritten    " + join(written, "\n           ") + "\n";
}

OrError<void> run_study(const Arguments& arguments) {
  if (arguments.words.empty())
    return usage_error("study needs a study file. Usage: pear-thread study FILE [OPTIONS]");
  PEAR_ASSIGN(study::Study study, study::read_study(arguments.words.front()));
  if (const std::string* out = arguments.find("out")) {
    study.folder = *out;
    for (study::StudyQuestion& question : study.questions) question.files.folder = *out;
  }
  PEAR_TRY(keep_only(study, arguments.all("question")));
  if (const std::string* workbook = arguments.find("workbook")) study.workbook = *workbook;
  for (const std::string& file : arguments.all("template")) study.templates.push_back(file);
  for (const std::string& file : study.templates)
    PEAR_TRY(files::read_whole_file(file));  // reported before all is run
  const bool quiet = arguments.has("quiet");
  PEAR_TRY(import_where_needed(study, !quiet));
  std::optional<study::EarlierAnswers> earlier;  // read first, because this run may overwrite it
  if (const std::string* folder = arguments.find("against")) {
    PEAR_ASSIGN(earlier, study::read_earlier(*folder));
  }
  study::StudyAnswers answers = run_with_progress(study, !quiet);
  warn_of_figures(answers);
  if (earlier) PEAR_TRY(study::add_changes(answers, *earlier));
  PEAR_ASSIGN(std::vector<std::string> paths, study::deliver(answers));
  paths.push_back(fmt::format("tables and figures in {}", study.folder));
  if (!quiet) print(answers_text(answers, paths, terminal_style()));
  return require_all(answers);
}

}  // namespace

Command study_command() {
  return {
      "study",
      "FILE",
      1,
      "runs the questions of a study and writes its report",
      "FILE is a study file (.toml): the daybook, or the intake file, and any number of questions "
      "with\ntheir options. If it names an intake file, the daybook is imported first if a source has "
      "changed.\nEvery question runs once and writes the same files as on its own; report.html and report.md "
      "contain\nall of them. A question that fails does not stop the others, and is shown as failed.\nTo add "
      "a question to a study file, run it with --save-as FILE.",
      {"pear-thread study monthly.toml",
       "pear-thread study monthly.toml --question prices --workbook prices.xlsx"},
      {{"question", "NAME", "", "run only this question, and do not change the report; may be repeated",
        true},
       {"out", "FOLDER", "as the file says", "the folder for the files"},
       {"workbook", "PATH", "as the file says", "a workbook (.xlsx) with all tables and figures"},
       {"against", "FOLDER", "", "show what changed since an earlier run, whose files are in this folder"},
       {"template", "FILE", "as the file says", "fill this template with the results; may be repeated",
        true}},
      run_study};
}

}  // namespace pear::cli
