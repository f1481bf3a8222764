#include "cli/studying.hpp"

#include <filesystem>
#include <set>

#include <fmt/format.h>
#include <spdlog/spdlog.h>

#include "base/text.hpp"
#include "cli/importing.hpp"
#include "cli/progress.hpp"
#include "intake/intake_file.hpp"
#include "storage/daybook_file.hpp"

namespace pear::cli {

OrError<void> import_where_needed(const Study& study, bool show_progress) {
  PEAR_ASSIGN(const bool is_needed, needs_import(study));
  if (!is_needed) {
    PEAR_TRY(DaybookFile::open(study.daybook));  // told once, not by every question
    return {};
  }
  ImportTask task;
  PEAR_ASSIGN(task.plan, read_intake_file(study.intake));
  task.daybook = study.daybook;
  task.command =
      fmt::format("pear-thread import {}", std::filesystem::path(study.intake).filename().string());
  task.show_progress = show_progress;
  PEAR_ASSIGN(const ImportOutcome imported, import_to_file(task));
  spdlog::info("{}", join(imported.report.headline, " "));
  return {};
}

StudyAnswers run_with_progress(const Study& study, bool show_progress) {
  ProgressBar bar(show_progress);  // gone before anything is said
  std::size_t done = 0;
  return run_study(study, [&](const StudyQuestion& question) {
    bar.show(done++, study.questions.size(), question.files.stem);
  });
}

void warn_of_figures(const StudyAnswers& answers) {
  std::set<std::string> said;
  for (const StudyAnswer& answer : answers.answers) {
    if (!answer.answer) continue;
    for (const std::string& warning : answer.answer->files.warnings)
      if (said.insert(warning).second) spdlog::warn("{}", warning);
  }
}

OrError<void> require_all(const StudyAnswers& answers) {
  const auto failed = answers.failed();
  if (failed.empty()) return {};
  return tl::unexpected<Error>(
      {failed.front()->failure.kind,
       fmt::format("{} of {} failed: {}: {}", failed.size(), counted(answers.answers.size(), "question"),
                   failed.front()->name(), failed.front()->failure.message)});
}

std::string heading(const std::string& name, const std::string& title, const TerminalStyle& style) {
  return style.emphasis ? fmt::format("\x1b[1m{}\x1b[0m  {}", name, title)
                        : fmt::format("{}  {}", name, title);
}

}  // namespace pear::cli
