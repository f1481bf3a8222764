// New customers by month.
#include <algorithm>
#include <numeric>
#include <utility>

#include <fmt/format.h>

#include "analysis/member_column.hpp"
#include "base/text.hpp"
#include "questions/first/tables.hpp"

namespace pear::first {
namespace {

struct MonthFacts {
  std::int64_t new_customers = 0;
  DecimalSum first_amount;
};

/// By group, then by month from the first on.
struct Months {
  Month first;
  std::vector<std::vector<MonthFacts>> groups;
};

Months months_of(const daybook::Daybook& daybook, const std::vector<FirstOrders>& beginnings,
                 const analysis::CustomerGroups& groups) {
  std::pair<Month, Month> range{{INT32_MAX}, {INT32_MIN}};
  std::vector<Month> month_of_customer(beginnings.size());
  for (std::uint32_t customer = 0; customer < beginnings.size(); ++customer) {
    if (!beginnings[customer].has_order()) continue;
    const Month month = month_of(daybook.date_of_order(beginnings[customer].first));
    month_of_customer[customer] = month;
    range = {std::min(range.first, month), std::max(range.second, month)};
  }
  const auto size = static_cast<std::size_t>(range.second.index - range.first.index + 1);
  Months months{range.first,
                std::vector<std::vector<MonthFacts>>(groups.count, std::vector<MonthFacts>(size))};
  for (std::uint32_t customer = 0; customer < beginnings.size(); ++customer) {
    if (!beginnings[customer].has_order()) continue;
    MonthFacts& facts =
        months.groups[groups.group_of(customer)]
                     [static_cast<std::size_t>(month_of_customer[customer].index - range.first.index)];
    ++facts.new_customers;
    facts.first_amount.add(Decimal::from_units(beginnings[customer].first_amount));
  }
  return months;
}

constexpr std::size_t kMostPanels = 8;

/// The numbers of new customers by group, one after another, out of the table.
std::vector<std::vector<std::int64_t>> by_group(const result::Table& months, std::size_t count) {
  const result::TableColumn& customers = months.columns[months.columns.size() - 3];
  const std::size_t size = months.rows() / count;
  std::vector<std::vector<std::int64_t>> groups(count);
  for (std::size_t row = 0; row < months.rows(); ++row) groups[row / size].push_back(customers.integer(row));
  return groups;
}

TextArray month_labels(const result::Table& months, std::size_t size) {
  const result::TableColumn& column = months.columns[months.columns.size() - 4];
  TextArray labels;
  for (std::size_t row = 0; row < size; ++row) labels.push_back(column.text(row));
  return labels;
}

/// One bar a month; the best is noticed and told.
void draw_bars(const std::vector<std::int64_t>& customers, const TextArray& labels, result::Figure& figure) {
  const auto best =
      static_cast<std::size_t>(std::max_element(customers.begin(), customers.end()) - customers.begin());
  const auto ties = std::count(customers.begin(), customers.end(), customers[best]);
  figure.title =
      customers.size() == 1
          ? fmt::format("All {} began in {}.",
                        counted(static_cast<std::uint64_t>(customers[best]), "customer"), labels[best])
      : ties > 1 ? fmt::format("{} months had the most new customers: {} each.", ties,
                               with_thousands(customers[best]))
                 : fmt::format("More customers began in {} than in any other month: {}.", labels[best],
                               with_thousands(customers[best]));
  if (customers.size() == 1 && customers[best] == 1)
    figure.title = fmt::format("The only customer began in {}.", labels[best]);
  if (ties == 1) figure.noticed = {best};
  figure.marks.columns.push_back(result::integer_column(
      "new_customers", result::Unit::count, "Customers whose first order is of that month.", customers));
}

/// A panel for each group, or for the largest and all others together.
void draw_groups(std::vector<std::vector<std::int64_t>> groups, const analysis::CustomerGroups& names,
                 result::Figure& figure) {
  figure.kind = result::Figure::Kind::small_multiples;
  figure.values.clear();
  std::vector<std::uint32_t> order(groups.size());
  std::iota(order.begin(), order.end(), 0U);
  std::vector<std::int64_t> all;
  for (const auto& group : groups)
    all.push_back(std::accumulate(group.begin(), group.end(), std::int64_t{0}));
  std::stable_sort(order.begin(), order.end(),
                   [&](std::uint32_t a, std::uint32_t b) { return all[a] > all[b]; });
  const auto customers = static_cast<std::uint64_t>(std::accumulate(all.begin(), all.end(), std::int64_t{0}));
  const auto most = static_cast<std::uint64_t>(all[order.front()]);
  figure.title = fmt::format("Most new customers are of {} {}: {} of {}.", names.noun(),
                             names.label(order.front()), with_thousands(static_cast<std::int64_t>(most)),
                             with_thousands(static_cast<std::int64_t>(customers)));
  std::vector<std::int64_t> others(groups.front().size());
  for (std::size_t i = kMostPanels; i < order.size(); ++i)
    for (std::size_t month = 0; month < others.size(); ++month) others[month] += groups[order[i]][month];
  for (std::size_t i = 0; i < std::min(order.size(), kMostPanels); ++i) {
    figure.values.push_back(figure.marks.columns.size());
    figure.marks.columns.push_back(result::integer_column(names.label(order[i]), result::Unit::count,
                                                          "New customers of this group.",
                                                          std::move(groups[order[i]])));
  }
  if (order.size() <= kMostPanels) return;
  figure.values.push_back(figure.marks.columns.size());
  figure.marks.columns.push_back(
      result::integer_column(fmt::format("other ({})", order.size() - kMostPanels), result::Unit::count,
                             "New customers of all other groups.", std::move(others)));
}

}  // namespace

OrError<result::Table> months_table(const daybook::Daybook& daybook,
                                    const std::vector<FirstOrders>& beginnings,
                                    const analysis::CustomerGroups& groups) {
  const Months months = months_of(daybook, beginnings, groups);
  std::vector<std::uint32_t> of_rows;
  TextArray labels;
  std::vector<std::int64_t> customers, running, amounts;
  for (std::uint32_t group = 0; group < groups.count; ++group) {
    std::int64_t so_far = 0;
    Month month = months.first;
    for (const MonthFacts& facts : months.groups[group]) {
      const auto amount = facts.first_amount.total();
      if (!amount)
        return data_error(fmt::format(
            "the first orders of {} come to more than 922,337,203,685,477. Look for wrong prices.",
            to_text(month)));
      of_rows.push_back(group);
      labels.push_back(to_text(month));
      customers.push_back(facts.new_customers);
      running.push_back(so_far += facts.new_customers);
      amounts.push_back(amount->units());
      ++month.index;
    }
  }
  result::Table table{"months", "New customers by month",
                      groups.is_split() ? fmt::format("One row for each {} and month.", groups.noun())
                                        : "One row for each month.",
                      groups.columns(of_rows)};
  table.columns.push_back(result::text_column("month", "Month of the first order.", std::move(labels)));
  table.columns.push_back(result::integer_column("new_customers", result::Unit::count,
                                                 "Customers whose first order is of this month.",
                                                 std::move(customers)));
  table.columns.push_back(result::integer_column(
      "running_customers", result::Unit::count,
      "Customers whose first order is of this month or an earlier one.", std::move(running)));
  table.columns.push_back(result::integer_column("first_amount", result::Unit::money,
                                                 "Amount of these first orders.", std::move(amounts)));
  table.most_shown = 6;
  return table;
}

result::Figure months_figure(const result::Table& months, const analysis::CustomerGroups& groups) {
  result::Figure figure;
  auto customers = by_group(months, groups.count);
  const TextArray labels = month_labels(months, customers.front().size());
  figure.marks.columns = {result::text_column("month", "Month.", labels)};
  if (groups.is_split()) {
    draw_groups(std::move(customers), groups, figure);
  } else {
    draw_bars(customers.front(), labels, figure);
  }
  figure.axis = result::Figure::Axis::months;
  figure.value_title = "new customers";
  return figure;
}

}  // namespace pear::first
