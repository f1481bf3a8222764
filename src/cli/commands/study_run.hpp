// The common part of `study` and `demo`.
#pragma once

#include <string>

#include "base/error.hpp"
#include "output/tables/terminal_writer.hpp"
#include "study/study.hpp"

namespace pear::cli {

/// Imports into the study's daybook, or appends to it, as plan_refresh() says. Error also if there is no
/// daybook then.
[[nodiscard]] OrError<void> import_where_needed(const study::Study& study, bool show_progress);

/// Runs the study's questions, with a progress bar on a terminal.
[[nodiscard]] study::StudyAnswers run_with_progress(const study::Study& study, bool show_progress);

/// Prints which figures could not be drawn, each reason once.
void warn_of_figures(const study::StudyAnswers& answers);

/// Fails with the first question that failed, if one did.
[[nodiscard]] OrError<void> require_all(const study::StudyAnswers& answers);

/// "name  title"
[[nodiscard]] std::string heading(const std::string& name, const std::string& title,
                                  const output::TerminalStyle& style);

}  // namespace pear::cli
