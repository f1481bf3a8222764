#include "cli/commands/import_sales.hpp"

#include <utility>

#include "analysis/population.hpp"
#include "intake/importing.hpp"
#include "intake/parts/import_in_parts.hpp"

namespace pear::cli {
namespace {

result::Population population_of(const daybook::Daybook& daybook, const storage::SalesTotals& totals) {
  result::Population population;
  population.customers = daybook.customers();
  population.orders = totals.orders;
  population.lines = totals.lines;
  population.returns = totals.returns;
  population.fee_lines = totals.fee_lines;
  population.first_date = totals.first_date;
  population.last_date = totals.last_date;
  population.amount = totals.amount.total();
  if (totals.fees) population.fees = totals.fees->total();
  return population;
}

/// What a part may need, if the whole program may need `memory`: the rest is for buffers and lists.
std::uint64_t memory_of_part(std::uint64_t memory) {
  constexpr std::uint64_t kBuffers = 120'000'000;
  return memory / 10 * 8 - kBuffers;
}

}  // namespace

OrError<ImportedSales> ImportedSales::read(const ImportTask& task, const intake::ImportHooks& hooks) {
  if (task.memory > 0) return read_in_parts(task, hooks);
  ImportedSales sales;
  PEAR_ASSIGN(sales.imported, intake::import_tables(task.plan, hooks));
  sales.population = analysis::population_of(sales.imported.built.daybook);
  return sales;
}

OrError<ImportedSales> ImportedSales::read_in_parts(const ImportTask& task,
                                                    const intake::ImportHooks& hooks) {
  ImportedSales sales;
  sales.folder_ = std::make_unique<files::ScratchFolder>();
  if (!sales.folder_->made())
    return io_error(
        "--memory needs a folder for intermediate files, and none can be created among the system's "
        "temporary ones. TMPDIR chooses another place.");
  storage::SortedRuns runs(sales.folder_->path());
  PEAR_ASSIGN(sales.imported,
              intake::import_in_parts(task.plan, hooks, {sales.folder_->path(), memory_of_part(task.memory)},
                                      [&](daybook::LineTable lines) { return runs.add(std::move(lines)); }));
  PEAR_ASSIGN(sales.on_disk_,
              storage::MergedSales::make(std::move(runs), [&](std::uint64_t done, std::uint64_t all) {
                hooks.progress({"merging", 0, done, all, true});
              }));
  sales.imported.built = sales.on_disk_->take_built();
  intake::describe_built(task.plan, sales.imported);
  sales.population = population_of(sales.imported.built.daybook, sales.on_disk_->totals());
  return sales;
}

OrError<std::string> ImportedSales::write(storage::DaybookTarget& target,
                                          const daybook::Provenance& provenance,
                                          const storage::ShowProgress& progress) const {
  const daybook::Daybook& daybook = imported.built.daybook;
  if (on_disk_) return target.write(*on_disk_, daybook, provenance, imported.waiting, progress);
  progress(0, 0);
  return target.write(daybook, provenance, imported.waiting);
}

}  // namespace pear::cli
