#include "worlds/asking.hpp"

#include <algorithm>
#include <stdexcept>
#include <utility>

#include "questions/all_questions.hpp"
#include "result/cell_text.hpp"

namespace pear::worlds {

result::Result ask(const std::string& question, const analysis::OptionValues& options, const World& world) {
  analysis::DaybookSource source{
      {"order_id", "customer_id", "product_id"}, {}, "", [&](const auto&) { return world.daybook; }};
  for (const daybook::Column& column : world.daybook.parts().columns) {
    source.columns.push_back(column.name);
    source.levels.emplace(column.name, column.level);
  }
  const auto& questions = questions::all_questions();
  const auto asked = std::find_if(questions.begin(), questions.end(),
                                  [&](const analysis::Question& each) { return each.name == question; });
  const auto answer = [&]() -> OrError<result::Result> {
    PEAR_ASSIGN(const analysis::PreparedQuestion prepared, asked->prepare(options));
    PEAR_ASSIGN(const analysis::SharedOptions shared, analysis::read_shared_options(*asked, options));
    return analysis::run_question(prepared, shared, source);
  };
  auto result = answer();
  if (!result) throw std::runtime_error(question + ": " + result.error().message);
  return std::move(*result);
}

std::vector<std::string> texts(const result::Table& table, std::string_view column) {
  std::vector<std::string> cells;
  for (std::size_t row = 0; row < table.rows(); ++row)
    cells.push_back(result::cell_text(table.column(column), row));
  return cells;
}

const result::Table& table(const result::Result& result, std::string_view part) {
  const auto found = std::find_if(result.tables.begin(), result.tables.end(),
                                  [&](const result::Table& each) { return each.part == part; });
  return *found;
}

std::vector<double> numbers(const result::Table& table, std::string_view column) {
  std::vector<double> values;
  for (const std::string& cell : texts(table, column)) values.push_back(cell.empty() ? 0 : std::stod(cell));
  return values;
}

}  // namespace pear::worlds
