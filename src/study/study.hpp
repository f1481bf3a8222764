// Runs the questions of a study.
#pragma once

#include <cstdint>
#include <functional>
#include <memory>
#include <optional>
#include <string>
#include <vector>

#include "app/run_and_write.hpp"
#include "base/error.hpp"
#include "intake/plan/intake_plan.hpp"
#include "result/result.hpp"
#include "study/study_file.hpp"

namespace pear::study {

/// A question of a study with its result, or the reason why there is none.
struct StudyAnswer {
  const StudyQuestion* asked = nullptr;
  std::optional<app::Answer> answer;
  Error failure;  ///< if there is no result
  [[nodiscard]] const std::string& name() const { return asked->files.stem; }
  /// The title that the file gives; or else that of the cross-tabulation, or what the question is about.
  [[nodiscard]] std::string title() const;
};

struct StudyAnswers {
  const Study* study = nullptr;
  std::unique_ptr<StudyQuestion> added;  ///< for a part that no question of the file asks: what changed
  std::vector<StudyAnswer> answers;      ///< what was added, then in the order of the file
  [[nodiscard]] std::vector<const StudyAnswer*> failed() const;
};

/// Runs one question after another, each once, into the study's folder; one that fails does not stop the
/// others. `begin` is called before each.
[[nodiscard]] StudyAnswers run_study(const Study& study,
                                     const std::function<void(const StudyQuestion&)>& begin = {});

/// What must be done before the questions are asked.
enum class RefreshStep : std::uint8_t { none, import, append };

struct RefreshPlan {
  RefreshStep step = RefreshStep::none;
  intake::IntakePlan plan;  ///< what to import, or to append
};

/// Import, if the daybook is missing, the intake file is newer, or a source has changed. If the daybook
/// contains lines of sources that the intake file does not name (they were appended, and importing would lose
/// them): append the sources of lines that it does not contain yet, if there are any. Reads all sources.
/// Errors: data and io, of intake file and daybook.
[[nodiscard]] OrError<RefreshPlan> plan_refresh(const Study& study);

}  // namespace pear::study
