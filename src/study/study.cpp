#include "study/study.hpp"

#include <algorithm>
#include <array>
#include <filesystem>

#include <fmt/format.h>

#include "base/text.hpp"
#include "intake/known_sources.hpp"
#include "intake/plan/intake_file.hpp"
#include "storage/daybook_reader.hpp"

namespace pear::study {
namespace {

/// The hashes of what a plan reads now; nothing if that is unknown (a database, a missing file).
std::optional<std::vector<std::string>> hashes_of(const intake::IntakePlan& plan) {
  std::vector<std::string> hashes;
  for (const auto& table : plan.tables) {
    if (!table) continue;
    for (const sources::TableAddress& address : table->sources()) {
      auto hash = intake::content_hash_of(address);
      if (!hash) return std::nullopt;
      hashes.push_back(std::move(*hash));
    }
  }
  std::sort(hashes.begin(), hashes.end());
  return hashes;
}

}  // namespace

std::vector<const StudyAnswer*> StudyAnswers::failed() const {
  std::vector<const StudyAnswer*> all;
  for (const StudyAnswer& answer : answers)
    if (!answer.answer) all.push_back(&answer);
  return all;
}

std::string StudyAnswer::title() const {
  if (!asked->title.empty()) return asked->title;
  const bool is_crosstab = asked->question != nullptr && asked->question->name == "crosstab" && answer;
  if (is_crosstab) return answer->result.tables.front().title;
  return asked->question == nullptr ? name() : asked->question->summary;
}

StudyAnswers run_study(const Study& study, const std::function<void(const StudyQuestion&)>& begin) {
  StudyAnswers answers{&study, nullptr, {}};
  for (const StudyQuestion& asked : study.questions) {
    if (begin) begin(asked);
    StudyAnswer entry{&asked, std::nullopt, {}};
    auto answer = app::run_and_write(*asked.question, {study.daybook, asked.values, asked.files});
    if (answer)
      entry.answer = std::move(*answer);
    else
      entry.failure = std::move(answer).error();
    answers.answers.push_back(std::move(entry));
  }
  return answers;
}

OrError<RefreshPlan> plan_refresh(const Study& study) {
  RefreshPlan refresh;
  if (study.intake.empty()) return refresh;
  PEAR_ASSIGN(refresh.plan, intake::read_intake_file(study.intake));
  std::error_code failure;
  const auto daybook_time = std::filesystem::last_write_time(study.daybook, failure);
  if (failure) {
    refresh.step = RefreshStep::import;
    return refresh;
  }
  PEAR_ASSIGN(const storage::DaybookFile daybook, storage::DaybookFile::open(study.daybook));
  const daybook::Provenance& provenance = daybook.info().provenance;
  if (!intake::sources_not_read(provenance, refresh.plan).empty()) {
    intake::skip_known_sources(provenance, refresh.plan);
    if (intake::has_new_lines(refresh.plan)) refresh.step = RefreshStep::append;
    return refresh;
  }
  std::vector<std::string> known;
  for (const daybook::SourceRecord& source : provenance.sources) known.push_back(source.content_hash);
  std::sort(known.begin(), known.end());
  const bool is_newer = std::filesystem::last_write_time(study.intake, failure) > daybook_time;
  if (is_newer || hashes_of(refresh.plan) != known) refresh.step = RefreshStep::import;
  return refresh;
}

}  // namespace pear::study
