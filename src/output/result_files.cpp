#include "output/result_files.hpp"

#include <utility>

#include "output/atomic_file.hpp"
#include "output/csv_writer.hpp"

namespace pear {

OrError<WrittenFiles> write_result(const Result& result, const Trail& trail, const FilePlan& plan) {
  PEAR_TRY(make_folder(plan.folder));
  WrittenFiles written;
  std::vector<AtomicFile> tables;
  for (const Table& table : result.tables) {
    PEAR_ASSIGN(AtomicFile file,
                AtomicFile::create(plan.folder + "/" + file_stem(plan.stem, table.part) + ".csv"));
    PEAR_TRY(write_csv(table, file));
    tables.push_back(std::move(file));
  }
  PEAR_TRY(describe_in_package(result, trail, plan.folder, plan.stem));
  for (AtomicFile& file : tables) {
    PEAR_TRY(file.commit());
    written.paths.push_back(file.path());
  }
  const std::size_t figures = plan.figures.empty() ? 0 : result.figures.size();
  for (std::size_t i = 0; i < figures; ++i) {
    const std::string stem = file_stem(plan.stem, result.figures[i].part);
    auto drawn = write_figure(result.figures[i], plan.folder, stem, plan.figures);
    if (drawn) {
      written.paths.insert(written.paths.end(), drawn->begin(), drawn->end());
    } else {
      written.warnings.push_back(std::move(drawn).error().message);
    }
  }
  written.paths.push_back(plan.folder + "/datapackage.json");
  return written;
}

}  // namespace pear
