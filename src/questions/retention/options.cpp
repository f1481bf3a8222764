#include "questions/retention/options.hpp"

#include <string_view>
#include <utility>

#include <fmt/format.h>

#include "analysis/options/expression_option.hpp"
#include "analysis/options/length_of_time.hpp"
#include "base/text.hpp"
#include "expression/syntax/parse.hpp"

namespace pear::retention {
namespace {

OrError<void> set_cohort(Options& options, std::string_view text) {
  constexpr std::string_view kTimes[] = {"month", "quarter", "year"};
  for (std::size_t i = 0; i < std::size(kTimes); ++i) {
    if (text != kTimes[i]) continue;
    options.cohort = static_cast<CohortKind>(i);
    return {};
  }
  auto columns = expression::parse_list(text);
  if (!columns) return analysis::in_option("cohort", columns.error());
  options.cohort = CohortKind::column;
  options.columns = *std::move(columns);
  return {};
}

OrError<void> set_period(Options& options, std::string_view text) {
  constexpr std::pair<std::string_view, PeriodKind> kKinds[] = {
      {"week", PeriodKind::week},       {"1 week", PeriodKind::week},     {"month", PeriodKind::month},
      {"1 month", PeriodKind::month},   {"quarter", PeriodKind::quarter}, {"1 quarter", PeriodKind::quarter},
      {"3 months", PeriodKind::quarter}};
  for (const auto& [name, kind] : kKinds) {
    if (text != name) continue;
    options.period.kind = kind;
    return {};
  }
  const auto days = analysis::parse_days("period", text, 1, 3'660);
  if (!days) return usage_error(days.error().message + " Or use week, month or quarter.");
  options.period.kind = PeriodKind::days;
  options.period.days = static_cast<std::int32_t>(*days);
  return {};
}

}  // namespace

analysis::OptionDeclarations<Options> option_declarations() {
  return {{{"cohort", "month|quarter|year|COLUMN", "month",
            "customers are grouped by the time of their first order, or by a column"},
           set_cohort},
          {{"period", "week|month|quarter|DAYS", "month", "the periods since the first order"}, set_period},
          {{"calendar", "", "", "calendar weeks, months or quarters instead of each customer's own"},
           [](Options& options, std::string_view) -> OrError<void> {
             options.period.by_calendar = true;
             return {};
           }}};
}

OrError<Options> read_options(const analysis::OptionValues& values) {
  PEAR_ASSIGN(Options options, analysis::read_options(option_declarations(), values));
  if (options.period.by_calendar && options.period.kind == PeriodKind::days)
    return usage_error("--calendar needs --period week, month or quarter: a number of days has no calendar.");
  return options;
}

}  // namespace pear::retention
