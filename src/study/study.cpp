#include "study/study.hpp"

#include <algorithm>
#include <array>
#include <filesystem>

#include <fmt/format.h>

#include "base/text.hpp"
#include "intake/plan/intake_file.hpp"
#include "sources/byte_source.hpp"
#include "storage/daybook_reader.hpp"

namespace pear::study {
namespace {

/// Of the bytes on the disk.
OrError<std::string> hash_of(const std::string& file) {
  PEAR_ASSIGN(const auto source, sources::open_bytes(file));
  std::vector<char> piece(1U << 20U);
  std::size_t taken = 1;
  while (taken > 0) {
    PEAR_ASSIGN(taken, source->read(piece));
  }
  return source->content_hash();
}

/// The hashes of what a plan reads now; nothing if that is unknown (a database, a missing file).
std::optional<std::vector<std::string>> hashes_of(const intake::IntakePlan& plan) {
  std::vector<std::string> hashes;
  for (const auto& table : plan.tables) {
    if (!table) continue;
    for (const sources::TableAddress& address : table->sources) {
      if (address.file.empty()) return std::nullopt;
      auto hash = hash_of(address.file);
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

OrError<bool> needs_import(const Study& study) {
  if (study.intake.empty()) return false;
  std::error_code failure;
  const auto daybook_time = std::filesystem::last_write_time(study.daybook, failure);
  if (failure) return true;
  PEAR_ASSIGN(const intake::IntakePlan plan, intake::read_intake_file(study.intake));
  PEAR_ASSIGN(const storage::DaybookFile daybook, storage::DaybookFile::open(study.daybook));
  std::vector<std::string> known;
  for (const daybook::SourceRecord& source : daybook.info().provenance.sources)
    known.push_back(source.content_hash);
  std::sort(known.begin(), known.end());
  std::size_t named = 0;
  for (const auto& table : plan.tables) named += table ? table->sources.size() : 0;
  if (known.size() > named)
    return data_error(
        fmt::format("{} contains {}, but {} names {}: importing it would lose what was appended. Name only "
                    "the daybook in {}, without intake.",
                    study.daybook, counted(known.size(), "source"), study.intake, named, study.file));
  if (std::filesystem::last_write_time(study.intake, failure) > daybook_time) return true;
  const auto now = hashes_of(plan);
  return !now || *now != known;
}

}  // namespace pear::study
