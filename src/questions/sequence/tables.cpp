#include <algorithm>
#include <cmath>
#include <utility>

#include <fmt/format.h>

#include "analysis/parallel_texts.hpp"
#include "analysis/table_builder.hpp"
#include "analysis/wording.hpp"
#include "base/text.hpp"
#include "questions/sequence/finding.hpp"

namespace pear::sequence {
namespace {

std::string_view to_text(StepDirection direction) {
  return direction == StepDirection::this_way    ? "this way"
         : direction == StepDirection::other_way ? "other way"
                                                 : "either";
}

bool is_directed(const Finding& finding) { return finding.rule.repeats != mining::Repeats::only; }

void add_direction(const Finding& finding, analysis::RowColumns<const Transition*>& columns,
                   std::vector<result::TableColumn>& table) {
  using Pair = const Transition*;
  const auto of_two = [](std::uint32_t Transition::*member) {
    return [member](Pair pair) {
      return pair->earlier == pair->later ? result::kEmptyCell : std::int64_t{pair->*member};
    };
  };
  columns.whole("reverse_customers", result::Unit::count, "Customers who bought them the other way round.",
                of_two(&Transition::reverse));
  columns.whole(
      "customers_one_way", result::Unit::count,
      "Customers who, of all their purchases, bought the later one after the earlier one and never the "
      "other way round.",
      of_two(&Transition::one_way));
  columns.whole("customers_other_way", result::Unit::count, "Customers who only did the opposite.",
                of_two(&Transition::other_way));
  TextArray directions;
  for (const Pair pair : finding.pairs)
    directions.push_back(pair->earlier == pair->later ? "" : to_text(finding.direction(*pair)));
  table.push_back(
      result::text_column("direction",
                          "\"this way\" or \"other way\" where one is commoner than chance would have it "
                          "(q_value up to 0.05); \"either\" otherwise.",
                          std::move(directions)));
  const auto nan_of_itself = [](Pair pair, double value) {
    return pair->earlier == pair->later ? std::nan("") : value;
  };
  columns.chance("p_value", "Chance of so uneven a split of those two (sign test, two-sided).",
                 [&](Pair pair) { return nan_of_itself(pair, pair->p); });
  columns.chance("q_value", "Rate of false discoveries among directions with so small a p_value.",
                 [&](Pair pair) { return nan_of_itself(pair, pair->q); });
}

}  // namespace

result::Table sequences_table(const Finding& finding) {
  using Row = ListedSequence;
  const auto& sequences = finding.sequences;
  result::Table table{
      "",
      "Sequences",
      fmt::format("One row for each sequence of {} that customers bought on later and later days.",
                  analysis::plural_of(finding.item)),
      {}};
  const auto texts = [&](bool names) {
    return analysis::parallel_texts(sequences.size(), [&](std::size_t row, std::string& text) {
      text = finding.told(sequences[row].items, names);
    });
  };
  table.columns.push_back(
      result::text_column("steps", "Steps joined by \" > \", items of one order by \" + \".", texts(false)));
  table.columns.back().always_shown = true;
  if (finding.names().are_named()) {
    table.columns.push_back(result::text_column("names", "The same with names.", texts(true)));
    table.columns.back().always_shown = true;
  }
  analysis::RowColumns<Row> columns(sequences, table.columns);
  columns.whole("length", result::Unit::count, "Steps.",
                [](const Row& row) { return mining::steps_of(row.items); });
  columns
      .whole("customers", result::Unit::count, "Customers who went through all steps.",
             [](const Row& row) { return row.facts.customers; })
      .always_shown = true;
  columns.share("support", "These as a share of all customers.",
                [&](const Row& row) { return row.facts.customers * 1.0 / finding.histories.buyers; });
  columns
      .share("rate_given_previous",
             "Of the customers of all steps but the last, the share that took the last.",
             [](const Row& row) { return row.facts.customers * 1.0 / row.given; })
      .always_shown = true;
  columns
      .whole("days_median", result::Unit::days, "Days from the last step but one to the last; median.",
             [](const Row& row) { return row.facts.last_days; })
      .always_shown = true;
  columns.whole("days_total_median", result::Unit::days, "Days from the first step to the last; median.",
                [](const Row& row) { return row.facts.all_days; });
  columns.ratio("least_lift",
                "The least lift of its steps: rate given those before, by the step's base rate.",
                [](const Row& row) { return row.least_lift; });
  columns.ratio("least_rate_ratio", "The least rate_ratio of its steps, each as a pair of its own.",
                [](const Row& row) { return row.least_ratio; });
  for (const Row& row : sequences) table.faint.push_back(row.is_found ? 0 : 1);
  return table;
}

result::Table transitions_table(const Finding& finding) {
  using Pair = const Transition*;
  result::Table table{"next",
                      "What comes next",
                      fmt::format("One row for each two {} that customers bought one after the other.",
                                  analysis::plural_of(finding.item)),
                      {}};
  std::vector<std::uint32_t> earlier, later;
  for (const Pair pair : finding.pairs) earlier.push_back(pair->earlier), later.push_back(pair->later);
  finding.names().add_columns("earlier", fmt::format("The {} bought first.", finding.item),
                              std::move(earlier), table.columns);
  finding.names().add_columns("later", fmt::format("The {} bought afterwards.", finding.item),
                              std::move(later), table.columns);
  analysis::RowColumns<Pair> columns(finding.pairs, table.columns);
  columns.whole("customers_earlier", result::Unit::count, "Customers who bought the first.",
                [&](Pair pair) { return finding.histories.counts[pair->earlier]; });
  columns
      .whole("customers_both", result::Unit::count, "Of these, those who bought the other afterwards.",
             [](Pair pair) { return pair->both; })
      .always_shown = true;
  columns
      .share("rate", "These as a share of the customers who bought the first.",
             [&](Pair pair) { return finding.rate(*pair); })
      .always_shown = true;
  columns.share("base_rate", "Of all customers, the share that bought the other after any order of theirs.",
                [&](Pair pair) { return finding.base_rate(pair->later); });
  columns.ratio("lift", "rate by base_rate.", [&](Pair pair) { return finding.lift(*pair); }).always_shown =
      true;
  if (is_directed(finding)) add_direction(finding, columns, table.columns);
  columns.whole("days_p25", result::Unit::days,
                "Days from one to the other: a quarter of customers took no more.",
                [](Pair pair) { return pair->days_p25; });
  columns
      .whole("days_median", result::Unit::days, "The median of these days.",
             [](Pair pair) { return pair->days_median; })
      .always_shown = true;
  columns.whole("days_p75", result::Unit::days, "Three quarters of customers took no more.",
                [](Pair pair) { return pair->days_p75; });
  columns
      .ratio("rate_ratio",
             "Times as often a day as usual that the other is bought from days_p25 to days_p75; the table's "
             "order goes by the lower end of its 95% interval.",
             [](Pair pair) { return pair->rate_ratio; })
      .always_shown = true;
  for (std::size_t i = 0; i < kRateDays.size(); ++i)
    columns.share(
        fmt::format("rate_{}", kRateDays[i]),
        fmt::format("Share that has bought the other within {} days, had all been followed so long.",
                    kRateDays[i]),
        [i](Pair pair) { return pair->rates[i]; });
  for (result::TableColumn& column : table.columns)  // so that a terminal has room for all that is shown
    column.heading = column.name == "customers_both" ? "both"
                     : column.name == "days_median"  ? "days"
                     : column.name == "rate_ratio"   ? "ratio"
                                                     : "";
  for (const Pair pair : finding.pairs) table.faint.push_back(finding.is_found(*pair) ? 0 : 1);
  return table;
}

std::vector<const Transition*> headline_pairs(const Finding& finding) {
  constexpr std::size_t kMost = 6;
  std::vector<const Transition*> pairs;
  for (const Transition* pair : finding.pairs)
    if (pairs.size() < kMost && finding.is_found(*pair)) pairs.push_back(pair);
  if (pairs.empty() && !finding.pairs.empty()) pairs.push_back(finding.pairs.front());
  return pairs;
}

result::Table timing_table(const Finding& finding) {
  result::Table table{
      "timing",
      "How soon",
      "One row for each day on which a customer bought the later one, for the first of the pairs.",
      {}};
  std::vector<std::uint32_t> earlier, later;
  std::vector<std::int64_t> days, at_risk, customers;
  std::vector<double> shares, lows, highs;
  for (const Transition* pair : headline_pairs(finding)) {
    const std::vector<statistics::SurvivalDay> curve = share_by_day(
        finding.histories, *finding.index, finding.rule, finding.asked.data_end, pair->earlier, pair->later);
    for (std::size_t day = 0; day < curve.size(); ++day) {
      if (curve[day].events == 0) continue;
      earlier.push_back(pair->earlier), later.push_back(pair->later);
      days.push_back(static_cast<std::int64_t>(day));
      at_risk.push_back(static_cast<std::int64_t>(curve[day].at_risk));
      customers.push_back(static_cast<std::int64_t>(curve[day].events));
      shares.push_back(curve[day].share), lows.push_back(curve[day].low), highs.push_back(curve[day].high);
    }
  }
  const analysis::ItemLabels names = finding.names();
  names.add_columns("earlier", fmt::format("The {} bought first.", finding.item), std::move(earlier),
                    table.columns);
  names.add_columns("later", fmt::format("The {} bought afterwards.", finding.item), std::move(later),
                    table.columns);
  auto& columns = table.columns;
  columns.push_back(
      result::integer_column("day", result::Unit::days, "Days after the first.", std::move(days)));
  columns.push_back(result::integer_column(
      "at_risk", result::Unit::count, "Customers followed so long who had not bought the later one before.",
      std::move(at_risk)));
  columns.push_back(result::integer_column(
      "customers", result::Unit::count, "Of these, those who bought it on this day.", std::move(customers)));
  columns.push_back(result::share_column(
      "share", "Share that has bought it by the end of this day (Kaplan-Meier).", std::move(shares)));
  columns.push_back(result::share_column("share_low", "Lower end of the 95% interval.", std::move(lows)));
  columns.push_back(result::share_column("share_high", "Upper end of the 95% interval.", std::move(highs)));
  table.most_shown = 3;
  return table;
}

}  // namespace pear::sequence
