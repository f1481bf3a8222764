#include "questions/first/figure.hpp"

#include <algorithm>
#include <numeric>
#include <utility>

#include <fmt/format.h>

#include "analysis/tables/table_builder.hpp"
#include "analysis/wording.hpp"
#include "base/text.hpp"
#include "questions/first/finding.hpp"

namespace pear::first {
namespace {

/// One bar a month; the highest one is highlighted if there is only one.
result::Chart month_bars(const Counts& counts, result::Table& marks) {
  analysis::TableBuilder builder(marks, counts.months);
  builder.count("new_customers", "Customers whose first order is in that month.",
                [](const MonthFacts& facts) { return facts.new_customers; });
  std::vector<std::size_t> most;
  for (std::size_t i = 0; i < counts.months.size(); ++i) {
    const std::int64_t customers = counts.months[i].new_customers;
    if (!most.empty() && customers > counts.months[most.front()].new_customers) most.clear();
    if (most.empty() || customers == counts.months[most.front()].new_customers) most.push_back(i);
  }
  result::BarChart chart;
  chart.label = "month";
  chart.value = "new_customers";
  chart.axis = result::LabelAxis::months;
  chart.value_title = "new customers";
  if (most.size() == 1) chart.noticed = most;
  return chart;
}

/// A panel for each group, or for the largest and all others together.
result::Chart group_panels(const Counts& counts, std::size_t months, result::Table& marks) {
  constexpr std::size_t kMostPanels = 8;
  std::vector<std::vector<std::int64_t>> groups(counts.groups.count);
  for (const MonthFacts& facts : counts.months) groups[facts.group].push_back(facts.new_customers);
  std::vector<std::uint32_t> order(groups.size());
  std::iota(order.begin(), order.end(), 0U);
  const auto all = [&](std::uint32_t group) {
    return std::accumulate(groups[group].begin(), groups[group].end(), std::int64_t{0});
  };
  std::stable_sort(order.begin(), order.end(),
                   [&](std::uint32_t a, std::uint32_t b) { return all(a) > all(b); });
  result::SmallMultiples chart;
  const auto add = [&](std::string title, std::string description, std::vector<std::int64_t> customers) {
    chart.series.push_back(analysis::add_series(
        marks, std::move(title),
        result::integer_column("", result::Unit::count, std::move(description), std::move(customers))));
  };
  std::vector<std::int64_t> others(months);
  for (std::size_t i = 0; i < order.size(); ++i) {
    const std::uint32_t group = order[i];
    if (i < kMostPanels) add(counts.groups.label(group), "New customers of this group.", groups[group]);
    for (std::size_t month = 0; i >= kMostPanels && month < months; ++month)
      others[month] += groups[group][month];
  }
  if (order.size() > kMostPanels)
    add(fmt::format("other ({})", order.size() - kMostPanels), "New customers of all other groups.", others);
  chart.label = "month";
  chart.axis = result::LabelAxis::months;
  chart.value_title = "new customers";
  return chart;
}

result::Figure months_figure(const Counts& counts) {
  result::Figure figure;
  figure.title = months_sentence(counts);
  figure.subtitle = fmt::format("Customers by the month of their first order; {}",
                                counted(counts.entries.customers, "customer"));
  const std::size_t months = counts.months.size() / counts.groups.count;
  TextArray labels;
  for (std::size_t i = 0; i < months; ++i) labels.push_back(to_text(counts.months[i].month));
  figure.marks.columns.push_back(result::text_column("month", "Month.", std::move(labels)));
  figure.chart = counts.groups.is_split() ? group_panels(counts, months, figure.marks)
                                          : month_bars(counts, figure.marks);
  return figure;
}

/// The headline in fewer words, for the entries shown.
std::string entry_title(const Counts& counts, const std::vector<Entry>& compared) {
  const auto [best, worst] = extremes_of(counts.entries, compared);
  if (!best && !worst)
    return fmt::format("No entry {} has a significantly higher or lower repeat rate", counts.entry_noun());
  const auto who = [&](const Entry& entry) {
    return fmt::format("{} after {}", analysis::per_cent(entry.ordered_again, entry.followed),
                       counts.label(entry));
  };
  if (best && worst) return fmt::format("Repeat rate: {}, only {}", who(*best), who(*worst));
  return best ? fmt::format("Repeat rate above average: {}", who(*best))
              : fmt::format("Repeat rate below average: {}", who(*worst));
}

/// The shown entries, compared with all customers.
result::IntervalChart entry_chart(const Counts& counts, const std::vector<Entry>& shown,
                                  result::Table& marks) {
  analysis::TableBuilder builder(marks, shown);
  result::IntervalChart chart;
  builder.text(chart.label = "label", "The product or value in the first order.",
               [&](const Entry& entry) { return counts.label(entry); });
  builder.share(chart.value = "repeat_rate", "Share of customers who ordered again.",
                [](const Entry& entry) { return entry.share(); });
  builder.share(chart.low = "low", "Lower end of the interval.",
                [](const Entry& entry) { return entry.interval().low; });
  builder.share(chart.high = "high", "Upper end of the interval.",
                [](const Entry& entry) { return entry.interval().high; });
  builder.count(chart.basis = "followed", "Customers followed.",
                [](const Entry& entry) { return entry.followed; });
  const Entries& entries = counts.entries;
  const double average = static_cast<double>(entries.ordered_again) / static_cast<double>(entries.followed);
  for (std::size_t i = 0; i < shown.size(); ++i)
    if (shown[i].is_significant()) chart.noticed.push_back(i);
  chart.reference = average;
  chart.reference_label = fmt::format("all: {}", analysis::per_cent(entries.ordered_again, entries.followed));
  chart.basis_title = "customers followed";
  chart.value_title = "share of customers who ordered again";
  return chart;
}

/// The entries with most new customers, of those that can be compared.
result::Figure entry_figure(const Counts& counts, std::vector<Entry> compared) {
  constexpr std::size_t kMost = 18;
  const std::string noun = analysis::plural_of(counts.entry_noun());
  const std::string shown = compared.size() > kMost ? fmt::format("the {} most frequent of {} entry {}",
                                                                  kMost, compared.size(), noun)
                                                    : fmt::format("entry {}", noun);
  if (compared.size() > kMost) compared.resize(kMost);
  std::stable_sort(compared.begin(), compared.end(),
                   [](const Entry& a, const Entry& b) { return a.share() > b.share(); });
  result::Figure figure;
  figure.part = "entry";
  figure.title = entry_title(counts, compared);
  figure.subtitle = fmt::format(
      "Share of new customers who ordered again within {}, with 95% intervals; {} with at least {} followed; "
      "ochre: significantly different",
      counts.followed(), shown, counted(static_cast<std::uint64_t>(counts.options.at_least), "customer"));
  figure.chart = entry_chart(counts, compared, figure.marks);
  return figure;
}

}  // namespace

std::vector<result::Figure> figures_of(const Counts& counts) {
  if (counts.entries.customers == 0) return {};
  std::vector<result::Figure> figures = {months_figure(counts)};
  std::vector<Entry> compared = counts.comparable_entries();
  if (compared.size() >= 2) figures.push_back(entry_figure(counts, std::move(compared)));
  return figures;
}

}  // namespace pear::first
