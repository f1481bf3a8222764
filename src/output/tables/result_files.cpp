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
                                                     const FilePlan& plan) {
  std::vector<files::AtomicFile> files;
  const auto add = [&](const std::string& stem, const char* ending) -> OrError<files::AtomicFile*> {
    PEAR_ASSIGN(files::AtomicFile file, files::AtomicFile::create(plan.folder + "/" + stem + ending));
    files.push_back(std::move(file));
    return &files.back();
  };
  if (is_wanted(plan, TableFormat::csv)) {
    for (const result::Table& table : result.tables) {
      PEAR_ASSIGN(files::AtomicFile * file, add(file_stem(plan.stem, table.part), ".csv"));
      PEAR_TRY(write_csv(table, *file));
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

void draw_figures(const result::Result& result, const FilePlan& plan, WrittenFiles& written) {
  const std::size_t figures = plan.figures.empty() ? 0 : result.figures.size();
  for (std::size_t i = 0; i < figures; ++i) {
    const std::string stem = file_stem(plan.stem, result.figures[i].part);
    auto drawn = write_figure(result.figures[i], plan.folder, stem, plan.figures);
    if (drawn) {
      written.paths.insert(written.paths.end(), drawn->begin(), drawn->end());
      written.figures.push_back({i, plan.folder + "/" + stem});
    } else {
      written.warnings.push_back(std::move(drawn).error().message);
    }
  }
}

}  // namespace

OrError<WrittenFiles> write_result(const result::Result& result, const Trail& trail, const FilePlan& plan) {
  PEAR_TRY(files::make_folder(plan.folder));
  WrittenFiles written;
  PEAR_ASSIGN(std::vector<files::AtomicFile> tables, write_tables(result, trail, plan));
  PEAR_TRY(describe_in_package(result, trail, plan.folder, plan.stem, is_wanted(plan, TableFormat::csv)));
  for (files::AtomicFile& file : tables) {
    PEAR_TRY(file.commit());
    written.paths.push_back(file.path());
  }
  draw_figures(result, plan, written);
  if (is_wanted(plan, TableFormat::xlsx)) {
    const std::string path = plan.folder + "/" + plan.stem + ".xlsx";
    PEAR_TRY(write_workbook(result.question, {workbook_part(result, trail, plan, written)}, path));
    written.paths.push_back(path);
  }
  written.paths.push_back(plan.folder + "/datapackage.json");
  return written;
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
