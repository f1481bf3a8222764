#include "questions/retention/tables.hpp"

#include <limits>
#include <string>
#include <utility>
#include <vector>

#include <fmt/format.h>

#include "analysis/tables/share_interval.hpp"
#include "analysis/tables/table_builder.hpp"

namespace pear::retention {
namespace {

/// The cohorts, and all of them as the last row.
std::vector<const Cohort*> rows_of(const Counts& counts) {
  std::vector<const Cohort*> rows;
  for (const Cohort& cohort : counts.cohorts) rows.push_back(&cohort);
  rows.push_back(&counts.all);
  return rows;
}

using Builder = analysis::TableBuilder<std::vector<const Cohort*>>;

void add_cohort(const Counts& counts, Builder& builder) {
  builder.text("cohort", fmt::format("The cohort: customers by {}.", counts.cohort_noun()),
               [](const Cohort* cohort) { return std::string_view(cohort->label); });
  builder.count("customers", "Customers of the cohort.",
                [](const Cohort* cohort) { return cohort->customers; });
}

std::string description_of(const Counts& counts, std::string_view what) {
  return fmt::format(
      "One row for each cohort: {} in each {} since the first order, which is in period 0. {} The "
      "last row is all cohorts that have finished the period.",
      what, counts.options.period.noun(),
      counts.is_time() ? "A cell is empty until the period is over for all customers of the cohort."
                       : "A cell counts the customers for whom the period is over.");
}

/// A column for each period, headed by its number.
template <class Add>
void add_periods(const Counts& counts, Add add) {
  for (std::size_t period = 0; period < counts.periods(); ++period) {
    result::TableColumn& column = add(period, fmt::format("{}_{}", counts.options.period.name(), period));
    column.heading = std::to_string(period);
  }
}

const Cell* cell_of(const Cohort* cohort, std::size_t period) {
  return period < cohort->cells.size() ? &cohort->cells[period] : nullptr;
}

struct CellRow {
  const Cohort* cohort = nullptr;
  std::size_t period = 0;
  const Cell* cell = nullptr;
};

}  // namespace

double share_of(std::uint64_t part, std::uint64_t whole) {
  return whole == 0 ? std::numeric_limits<double>::quiet_NaN()
                    : static_cast<double>(part) / static_cast<double>(whole);
}

std::int64_t per_customer(const DecimalSum& amount, std::uint64_t customers) {
  const auto total = amount.total();
  if (!total || customers == 0) return result::kEmptyCell;
  return static_cast<std::int64_t>(divided_evenly(total->units(), static_cast<std::int64_t>(customers)));
}

result::Table shares_table(const Counts& counts) {
  const std::vector<const Cohort*> rows = rows_of(counts);
  result::Table table{"",
                      fmt::format("Share of customers who ordered, by {} since the first order",
                                  counts.options.period.noun()),
                      description_of(counts, "the share of its customers who ordered"),
                      {}};
  Builder builder(table, rows);
  add_cohort(counts, builder);
  add_periods(counts, [&](std::size_t period, std::string name) -> result::TableColumn& {
    return builder.share(std::move(name),
                         fmt::format("Share of the customers with an order in period {}.", period),
                         [period](const Cohort* cohort) {
                           const Cell* cell = cell_of(cohort, period);
                           return cell == nullptr ? share_of(0, 0) : share_of(cell->ordered, cell->customers);
                         });
  });
  table.totals = {table.rows() - 1};
  table.rows_by_time = counts.is_time();
  table.most_shown = 24;
  return table;
}

result::Table amounts_table(const Counts& counts) {
  const std::vector<const Cohort*> rows = rows_of(counts);
  result::Table table{
      "amounts",
      fmt::format("Amount per customer so far, by {} since the first order", counts.options.period.noun()),
      description_of(counts, "the amount per customer from the first order to its end"),
      {}};
  Builder builder(table, rows);
  add_cohort(counts, builder);
  add_periods(counts, [&](std::size_t period, std::string name) -> result::TableColumn& {
    return builder.rounded_money(
        std::move(name),
        fmt::format("Amount per customer, net of returns, from the first order to the end of period {}.",
                    period),
        [period](const Cohort* cohort) {
          const Cell* cell = cell_of(cohort, period);
          return cell == nullptr ? result::kEmptyCell : per_customer(cell->amount_so_far, cell->customers);
        });
  });
  table.totals = {table.rows() - 1};
  table.most_shown = 12;
  return table;
}

result::Table cells_table(const Counts& counts) {
  std::vector<CellRow> rows;
  for (const Cohort* cohort : rows_of(counts))
    for (std::size_t period = 0; period < cohort->cells.size(); ++period)
      if (cohort->cells[period].customers > 0) rows.push_back({cohort, period, &cohort->cells[period]});
  result::Table table{"cells",
                      "All figures by cohort and period",
                      "One row for each cohort and finished period; the last cohort is all together.",
                      {}};
  analysis::TableBuilder builder(table, rows);
  builder.text("cohort", fmt::format("The cohort: customers by {}.", counts.cohort_noun()),
               [](const CellRow& row) { return std::string_view(row.cohort->label); });
  builder.count("period", fmt::format("The {}, from 0.", counts.options.period.noun()),
                [](const CellRow& row) { return row.period; });
  builder.count("customers", "Customers for whom the period is over.",
                [](const CellRow& row) { return row.cell->customers; });
  builder.count("ordered", "Of these, with an order in the period.",
                [](const CellRow& row) { return row.cell->ordered; });
  builder.share("share", "These as a share of the customers.",
                [](const CellRow& row) { return share_of(row.cell->ordered, row.cell->customers); });
  if (counts.is_sample)
    analysis::add_share_interval(builder, "share", [](const CellRow& row) {
      return std::pair(row.cell->ordered, row.cell->customers);
    });
  builder.count("ordered_again", "Customers with a second order by the end of the period.",
                [](const CellRow& row) { return row.cell->ordered_again; });
  builder.share("repeat_rate", "These as a share of the customers.",
                [](const CellRow& row) { return share_of(row.cell->ordered_again, row.cell->customers); });
  if (counts.is_sample)
    analysis::add_share_interval(builder, "repeat_rate", [](const CellRow& row) {
      return std::pair(row.cell->ordered_again, row.cell->customers);
    });
  builder.count("orders", "Orders in the period.", [](const CellRow& row) { return row.cell->orders; });
  builder.money("amount", "Amount of the period, net of returns.",
                [](const CellRow& row) { return analysis::in_units(row.cell->amount); });
  builder.rounded_money("amount_per_customer", "This amount per customer.", [](const CellRow& row) {
    return per_customer(row.cell->amount, row.cell->customers);
  });
  builder.rounded_money(
      "amount_per_customer_so_far", "Amount per customer from the first order to the end of the period.",
      [](const CellRow& row) { return per_customer(row.cell->amount_so_far, row.cell->customers); });
  table.most_shown = 0;
  return table;
}

}  // namespace pear::retention
