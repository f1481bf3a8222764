#include "study/delivery.hpp"

#include <filesystem>

#include <fmt/format.h>

#include "files/atomic_file.hpp"
#include "files/whole_file.hpp"
#include "output/tables/xlsx_writer.hpp"
#include "study/report/report_markdown.hpp"
#include "study/report/report_page.hpp"
#include "study/report/template.hpp"

namespace pear::study {
namespace {

/// Filled into the study's folder, under the template's own name.
OrError<std::string> deliver_template(const StudyAnswers& answers, const std::string& file) {
  const std::string path =
      (std::filesystem::path(answers.study->folder) / std::filesystem::path(file).filename()).string();
  PEAR_ASSIGN(const std::string text, files::read_input_file(file));
  PEAR_ASSIGN(const std::string filled, fill_template(answers, text, file, template_kind(file)));
  PEAR_TRY(files::write_file(path, filled));
  return path;
}

OrError<void> deliver_workbook(const StudyAnswers& answers) {
  const Study& study = *answers.study;
  std::vector<output::WorkbookPart> parts;
  for (const StudyAnswer& answer : answers.answers) {
    if (!answer.answer) continue;
    parts.push_back(output::workbook_part(answer.answer->result, answer.answer->trail, answer.asked->files,
                                          answer.answer->files));
    parts.back().title = answer.title();
  }
  const auto folder = std::filesystem::path(study.workbook).parent_path().string();
  if (!folder.empty()) PEAR_TRY(files::make_folder(folder));
  PEAR_ASSIGN(files::AtomicFile workbook, output::make_workbook(study.title, parts, study.workbook));
  return workbook.commit();
}

}  // namespace

OrError<void> add_changes(StudyAnswers& answers, const EarlierAnswers& earlier) {
  const Study& study = *answers.study;
  app::Answer changes;
  changes.result = compare(answers, earlier);
  PEAR_TRY(app::require_checks(changes.result));
  const std::string daybook = std::filesystem::path(study.daybook).filename().string();
  const std::string file = std::filesystem::path(study.file).filename().string();
  std::string fingerprint;
  for (const StudyAnswer& answer : answers.answers)
    if (answer.answer) fingerprint = answer.answer->trail.fingerprint;
  changes.trail = {fmt::format("pear-thread study {} --against {}", file, earlier.folder), daybook,
                   fingerprint,
                   fmt::format("all results of {}, compared with those in {}", file, earlier.folder)};
  answers.added = std::make_unique<StudyQuestion>();
  answers.added->title = "What changed";
  answers.added->top = 60;
  answers.added->files = {study.folder, "changes", {}};
  PEAR_ASSIGN(changes.files, output::write_result(changes.result, changes.trail, answers.added->files));
  answers.answers.insert(answers.answers.begin(), {answers.added.get(), std::move(changes), {}});
  return {};
}

OrError<std::vector<std::string>> deliver(const StudyAnswers& answers) {
  const Study& study = *answers.study;
  PEAR_TRY(files::make_folder(study.folder));
  std::vector<std::string> paths;
  if (study.is_whole) {
    paths = {study.folder + "/report.html", study.folder + "/report.md"};
    PEAR_ASSIGN(const std::string page, render_report_page(answers));
    PEAR_TRY(files::write_file(paths[0], page));
    PEAR_TRY(files::write_file(paths[1], render_report_markdown(answers)));
  }
  if (!study.workbook.empty()) {
    PEAR_TRY(deliver_workbook(answers));
    paths.push_back(study.workbook);
  }
  for (const std::string& file : study.templates) {
    PEAR_ASSIGN(std::string path, deliver_template(answers, file));
    paths.push_back(std::move(path));
  }
  return paths;
}

}  // namespace pear::study
