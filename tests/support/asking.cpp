#include "support/asking.hpp"

#include <stdexcept>

namespace pear::test {

OrError<Result> try_to_ask(const std::string& question, const OptionValues& options, const Daybook& daybook,
                           const std::string& currency) {
  DaybookSource source{
      {"order_id", "customer_id", "product_id"}, {}, currency, [&](const auto&) { return daybook; }};
  for (const Column& column : daybook.parts().columns) {
    source.columns.push_back(column.name);
    source.levels.emplace(column.name, column.level);
  }
  for (const Question& each : questions()) {
    if (each.name != question) continue;
    PEAR_ASSIGN(const PreparedQuestion prepared, each.prepare(options));
    PEAR_ASSIGN(const Selection selection, read_selection(options));
    return answer(prepared, selection, source);
  }
  throw std::logic_error("there is no question " + question);
}

Result ask(const std::string& question, const OptionValues& options, const Daybook& daybook) {
  auto result = try_to_ask(question, options, daybook);
  if (!result) throw std::runtime_error(result.error().message);
  return std::move(*result);
}

Result ask(const std::string& question, const OptionValues& options, const Sales& sales) {
  return ask(question, options, build(sales).daybook);
}

}  // namespace pear::test
