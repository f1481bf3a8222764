#include "support/asking.hpp"

#include <stdexcept>
#include <utility>

#include "questions/all_questions.hpp"

namespace pear::test {

OrError<result::Result> try_to_ask(const std::string& question, const analysis::OptionValues& options,
                                   const daybook::Daybook& daybook, const std::string& currency,
                                   std::map<std::string, analysis::SideTable> side_tables) {
  analysis::DaybookSource source{
      {"order_id", "customer_id", "product_id"}, {}, currency, [&](const auto&) { return daybook; }};
  source.side_tables = std::move(side_tables);
  for (const daybook::Column& column : daybook.parts().columns) {
    source.columns.push_back(column.name);
    source.levels.emplace(column.name, column.level);
  }
  for (const analysis::Question& each : questions::all_questions()) {
    if (each.name != question) continue;
    PEAR_ASSIGN(const analysis::PreparedQuestion prepared, each.prepare(options));
    PEAR_ASSIGN(const analysis::SharedOptions shared, analysis::read_shared_options(each, options));
    return analysis::run_question(prepared, shared, source);
  }
  throw std::logic_error("there is no question " + question);
}

result::Result ask(const std::string& question, const analysis::OptionValues& options,
                   const daybook::Daybook& daybook) {
  auto result = try_to_ask(question, options, daybook);
  if (!result) throw std::runtime_error(result.error().message);
  return std::move(*result);
}

result::Result ask(const std::string& question, const analysis::OptionValues& options, const Sales& sales) {
  return ask(question, options, build(sales).daybook);
}

}  // namespace pear::test
