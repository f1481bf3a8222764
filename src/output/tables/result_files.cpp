#include "output/tables/result_files.hpp"

#include <algorithm>
#include <utility>

#include "files/atomic_file.hpp"
#include "output/tables/csv_writer.hpp"
#include "output/tables/json_writer.hpp"
#include "output/tables/markdown_writer.hpp"
#include "output/tables/xlsx_writer.hpp"

namespace pear::output {
namespace {

bool is_wanted(const FilePlan& plan, TableFormat format) {
  return std::find(plan.tables.begin(), plan.tables.end(), format) != plan.tables.end();
}

/// The files of the tables except the workbook, written but not yet visible.
OrError<std::vector<files::AtomicFile>> write_tables(const result::Result& result, const Trail& trail,
                                                     const FilePlan& plan, const WritingProgress& progress) {
  std::vector<files::AtomicFile> files;
  const auto add = [&](const std::string& stem, const char* ending) -> OrError<files::AtomicFile*> {
    PEAR_ASSIGN(files::AtomicFile file, files::AtomicFile::create(plan.folder + "/" + stem + ending));
    files.push_back(std::move(file));
    return &files.back();
  };
  if (is_wanted(plan, TableFormat::csv)) {
    for (const result::Table& table : result.tables) {
      PEAR_ASSIGN(files::AtomicFile * file, add(file_stem(plan.stem, table.part), ".csv"));
      const std::string what = "writing " + file_stem(plan.stem, table.part) + ".csv";
      PEAR_TRY(write_csv(table, *file, plan.csv, [&](std::size_t rows) {
        if (progress) progress(what, rows, table.rows());
      }));
    }
  }
  if (is_wanted(plan, TableFormat::json)) {
    PEAR_ASSIGN(files::AtomicFile * file, add(plan.stem, ".json"));
    PEAR_TRY(write_json(result, trail, *file));
  }
  if (is_wanted(plan, TableFormat::md)) {
    PEAR_ASSIGN(files::AtomicFile * file, add(plan.stem, ".md"));
    constexpr std::size_t kRows = 100;
    PEAR_TRY(file->write(render_markdown(result, plan.stem, trail.selection, plan.stem, kRows)));
  }
  return files;
}

/// Draws the figures. Of PNG files of a workbook, `pictures` gets their names until they are committed.
void draw_figures(const result::Result& result, const FilePlan& plan, std::vector<files::AtomicFile>& files,
                  std::vector<std::string>& pictures, WrittenFiles& written) {
  const std::size_t figures = plan.figures.empty() ? 0 : result.figures.size();
  for (std::size_t i = 0; i < figures; ++i) {
    const std::string stem = file_stem(plan.stem, result.figures[i].part);
    auto drawn = draw_figure(result.figures[i], plan.folder, stem, plan.figures);
    if (!drawn) {
      written.warnings.push_back(std::move(drawn).error().message);
      continue;
    }
    written.figures.push_back({i, plan.folder + "/" + stem});
    for (files::AtomicFile& file : *drawn) {
      if (file.path().ends_with(".png")) pictures.push_back(file.hidden_path());
      files.push_back(std::move(file));
    }
  }
}

}  // namespace

OrError<StagedResult> StagedResult::stage(const result::Result& result, const Trail& trail,
                                          const FilePlan& plan, const WritingProgress& progress) {
  PEAR_TRY(files::make_folder(plan.folder));
  StagedResult staged;
  staged.result_ = &result;
  staged.trail_ = trail;
  staged.plan_ = plan;
  PEAR_ASSIGN(staged.files_, write_tables(result, trail, plan, progress));
  if (progress && !plan.figures.empty()) progress("drawing figures", 0, 0);
  std::vector<std::string> pictures;
  draw_figures(result, plan, staged.files_, pictures, staged.written_);
  if (is_wanted(plan, TableFormat::xlsx)) {
    WorkbookPart part{result.question, &result, trail.selection, plan.stem, pictures};
    PEAR_ASSIGN(files::AtomicFile workbook,
                make_workbook(result.question, {part}, plan.folder + "/" + plan.stem + ".xlsx"));
    staged.files_.push_back(std::move(workbook));
  }
  for (files::AtomicFile& file : staged.files_) PEAR_TRY(file.finish());
  return staged;
}

OrError<WrittenFiles> StagedResult::commit() {
  const files::FolderLock lock(plan_.folder);
  PEAR_ASSIGN(files::AtomicFile package, describe_in_package(*result_, trail_, plan_.folder, plan_.stem,
                                                             is_wanted(plan_, TableFormat::csv)));
  files_.push_back(std::move(package));  // last: it says which files belong together
  for (const files::AtomicFile& file : files_) written_.paths.push_back(file.path());
  PEAR_TRY(files::commit_together(files_));
  return std::move(written_);
}

OrError<WrittenFiles> write_result(const result::Result& result, const Trail& trail, const FilePlan& plan,
                                   const WritingProgress& progress) {
  PEAR_ASSIGN(StagedResult staged, StagedResult::stage(result, trail, plan, progress));
  return staged.commit();
}

WorkbookPart workbook_part(const result::Result& result, const Trail& trail, const FilePlan& plan,
                           const WrittenFiles& written) {
  WorkbookPart part{result.question, &result, trail.selection, plan.stem, {}};
  const bool has_png =
      std::find(plan.figures.begin(), plan.figures.end(), FigureFormat::png) != plan.figures.end();
  for (const DrawnFigure& figure : written.figures)
    if (has_png) part.pictures.push_back(figure.path + ".png");
  return part;
}

}  // namespace pear::output
