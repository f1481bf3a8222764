#include "questions/sequence/journey_tables.hpp"

#include <algorithm>
#include <limits>

#include <fmt/format.h>

#include "analysis/tables/table_builder.hpp"
#include "statistics/quantile.hpp"

namespace pear::sequence {
namespace {

double part_of(std::uint64_t part, std::uint64_t all) {
  return static_cast<double>(part) / static_cast<double>(all);
}

/// Customers whose step of a number is an item.
struct StepRow {
  std::uint32_t step = 0, code = 0;
  std::uint64_t customers = 0, of_step = 0, stopped = 0;
  bool is_last = false;
};

/// In order of the step, the most frequent item first.
std::vector<StepRow> step_rows(const Journey& journey) {
  std::map<std::uint32_t, std::uint64_t> at_step;
  std::vector<StepRow> rows;
  for (const auto& [place, customers] : arrivals(journey)) {
    const auto [step, code] = place;
    if (code == kNoStep) continue;
    at_step[step] += customers;
    const auto stopped = journey.flows.find({step + 1, code, kNoStep});
    rows.push_back({step, code, customers, 0, stopped == journey.flows.end() ? 0 : stopped->second.customers,
                    step == static_cast<std::uint32_t>(journey.options.longest)});
  }
  for (StepRow& row : rows) row.of_step = at_step[row.step];
  std::stable_sort(rows.begin(), rows.end(), [](const StepRow& a, const StepRow& b) {
    return a.step != b.step ? a.step < b.step : a.customers > b.customers;
  });
  return rows;
}

}  // namespace

result::Table flows_table(const Journey& journey) {
  using Row = const Flow*;
  const std::vector<Row> rows = flows_in_order(journey);
  const auto came = arrivals(journey);
  const auto label = [&](std::uint32_t code) {
    return code == kNoStep ? "" : expression::label_text(journey.key, code);
  };
  result::Table table{"journey",
                      "Moves from step to step",
                      fmt::format("One row for each {} and the one that customers moved to; empty for "
                                  "customers without a further step.",
                                  journey.item),
                      {}};
  analysis::TableBuilder builder(table, rows);
  builder.count("step", "The step that the customers moved to, or would have.",
                [](Row row) { return row->first.step; });
  builder.text("from", fmt::format("The {} of the step before; empty at the first.", journey.item),
               [&](Row row) { return label(row->first.from); });
  builder.text("to",
               fmt::format("The {} of this step; empty for customers without a further step.", journey.item),
               [&](Row row) { return label(row->first.to); });
  builder.count("customers", "Customers.", [](Row row) { return row->second.customers; });
  builder.share(
      "share_of_from", "These as a share of the customers of the step before with that value.", [&](Row row) {
        const auto& [step, from, to] = row->first;
        return part_of(row->second.customers, step == 1 ? journey.customers : came.at({step - 1, from}));
      });
  builder.share("share_of_all", "These as a share of all customers.",
                [&](Row row) { return part_of(row->second.customers, journey.customers); });
  builder.days("days_median", "Days since the step before; median.", [](Row row) {
    std::vector<std::int32_t> days = row->second.days;
    const auto median = statistics::quantile_of(days, statistics::kHalf);
    return median ? std::int64_t{*median} : result::kEmptyCell;
  });
  return table;
}

result::Table steps_table(const Journey& journey) {
  const std::vector<StepRow> rows = step_rows(journey);
  result::Table table{
      "journey-steps", "Customers by step", fmt::format("One row for each step and {}.", journey.item), {}};
  analysis::TableBuilder builder(table, rows);
  builder.count("step", "First, second, third ...", [](const StepRow& row) { return row.step; });
  builder.key(journey.names().column(), fmt::format("The {}.", journey.item), journey.key,
              [](const StepRow& row) { return row.code; });
  builder.count("customers", "Customers whose step it is.", [](const StepRow& row) { return row.customers; });
  builder.share("share_of_step", "These as a share of all who reached this step.",
                [](const StepRow& row) { return part_of(row.customers, row.of_step); });
  builder.share("share_of_all", "These as a share of all customers.",
                [&](const StepRow& row) { return part_of(row.customers, journey.customers); });
  builder.count("last_step", "Of these, those without a further step; empty for the last step shown.",
                [](const StepRow& row) {
                  return row.is_last ? result::kEmptyCell : static_cast<std::int64_t>(row.stopped);
                });
  builder.share("last_step_share", "These as a share of the customers here.", [](const StepRow& row) {
    return row.is_last ? std::numeric_limits<double>::quiet_NaN() : part_of(row.stopped, row.customers);
  });
  return table;
}

}  // namespace pear::sequence
