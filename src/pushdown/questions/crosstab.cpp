#include "pushdown/questions/crosstab.hpp"

#include <iterator>
#include <utility>

#include "pushdown/cells_in_sql.hpp"
#include "questions/crosstab/question.hpp"

namespace pear::pushdown {

OrError<result::Result> answer_crosstab(const analysis::OptionValues& values, const SelectedLines& lines,
                                        const analysis::QuestionInput& input) {
  PEAR_ASSIGN(const crosstab::Options given, crosstab::read(values));
  if (!given.details.empty())
    return usage_error(
        "--details writes lines, which stay in the database. Import them, or ask the database for them.");
  const crosstab::WithoutLabels chosen = crosstab::without_labels(given, lines.scope.schema);
  PEAR_ASSIGN(std::vector<SqlKey> keys, keys_of("down", chosen.options.down, lines));
  PEAR_ASSIGN(std::vector<SqlKey> across, keys_of("across", chosen.options.across, lines));
  std::move(across.begin(), across.end(), std::back_inserter(keys));
  PEAR_ASSIGN(const SqlCells cells, SqlCells::read(lines, std::move(keys), chosen.options.down.size()));
  const auto first_across = cells.labels().begin() + static_cast<std::ptrdiff_t>(chosen.options.down.size());
  PEAR_ASSIGN(const crosstab::Counts counts,
              crosstab::count_cells(
                  cells, {{cells.labels().begin(), first_across}, {first_across, cells.labels().end()}},
                  input, chosen.options, lines.scope.schema));
  if (lines.session.explains()) return result::Result{};
  return crosstab::result_of(counts, input, chosen, expression::LineView(input.daybook, input.grains));
}

}  // namespace pear::pushdown
