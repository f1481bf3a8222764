#include "analysis/tables/table_builder.hpp"

#include <fmt/format.h>
#include <tbb/blocked_range.h>
#include <tbb/parallel_for.h>

namespace pear::analysis {

void for_each_run(std::size_t rows, const std::function<void(std::size_t begin, std::size_t end)>& work) {
  constexpr std::size_t kRowsPerRun = 16'384;  // fewer do not justify a thread
  tbb::parallel_for(tbb::blocked_range<std::size_t>(0, rows, kRowsPerRun),
                    [&](const auto& run) { work(run.begin(), run.end()); });
}

std::string add_series(result::Table& marks, std::string title, result::TableColumn column) {
  column.name = fmt::format("series {}", marks.columns.size());
  column.heading = std::move(title);
  marks.columns.push_back(std::move(column));
  return marks.columns.back().name;
}

}  // namespace pear::analysis
