#include "cli/commands/study_run.hpp"

#include <filesystem>
#include <set>

#include <fmt/format.h>
#include <spdlog/spdlog.h>

#include "base/text.hpp"
#include "cli/commands/import_run.hpp"
#include "cli/progress.hpp"
#include "storage/daybook_reader.hpp"

namespace pear::cli {

OrError<void> import_where_needed(const study::Study& study, bool show_progress) {
  PEAR_ASSIGN(study::RefreshPlan refresh, study::plan_refresh(study));
  if (refresh.step == study::RefreshStep::none) {
    PEAR_TRY(storage::DaybookFile::open(study.daybook));  // reported once, not by every question
    return {};
  }
  ImportTask task;
  task.plan = std::move(refresh.plan);
  if (const auto old = storage::DaybookFile::open(study.daybook))
    task.plan.sample = old->info().provenance.sample;
  task.append = refresh.step == study::RefreshStep::append;
  task.daybook = study.daybook;
  task.command =
      fmt::format("pear-thread import {}", std::filesystem::path(study.intake).filename().string());
  task.show_progress = show_progress;
  PEAR_ASSIGN(const ImportOutcome imported, import_to_file(task));
  spdlog::info("{}", join(imported.report.headline, " "));
  return {};
}

study::StudyAnswers run_with_progress(const study::Study& study, bool show_progress) {
  ProgressBar bar(show_progress);  // gone before anything is said
  std::size_t done = 0;
  return study::run_study(study, [&](const study::StudyQuestion& question) {
    bar.show(done++, study.questions.size(), "study", question.files.stem);
  });
}

void warn_of_figures(const study::StudyAnswers& answers) {
  std::set<std::string> said;
  for (const study::StudyAnswer& answer : answers.answers) {
    if (!answer.answer) continue;
    for (const std::string& warning : answer.answer->files.warnings)
      if (said.insert(warning).second) spdlog::warn("{}", warning);
  }
}

OrError<void> require_all(const study::StudyAnswers& answers) {
  const auto failed = answers.failed();
  if (failed.empty()) return {};
  return tl::unexpected<Error>(
      {failed.front()->failure.kind,
       fmt::format("{} of {} failed: {}: {}", failed.size(), counted(answers.answers.size(), "question"),
                   failed.front()->name(), failed.front()->failure.message)});
}

std::string heading(const std::string& name, const std::string& title, const output::TerminalStyle& style) {
  return style.emphasis ? fmt::format("\x1b[1m{}\x1b[0m  {}", name, title)
                        : fmt::format("{}  {}", name, title);
}

}  // namespace pear::cli
