#include "questions/sequence/tables.hpp"

#include <cmath>
#include <utility>

#include <fmt/format.h>

#include "analysis/tables/parallel_texts.hpp"
#include "analysis/tables/table_builder.hpp"
#include "analysis/wording.hpp"
#include "base/text.hpp"

namespace pear::sequence {
namespace {

std::string_view to_text(StepDirection direction) {
  return direction == StepDirection::this_way    ? "this way"
         : direction == StepDirection::other_way ? "other way"
                                                 : "either";
}

bool is_directed(const Counts& counts) { return counts.rule.repeats != mining::Repeats::only; }

template <class Builder>
void add_direction(const Counts& counts, Builder& builder) {
  using Pair = const Transition*;
  const auto of_two = [](std::uint32_t Transition::*member) {
    return [member](Pair pair) {
      return pair->earlier == pair->later ? result::kEmptyCell : std::int64_t{pair->*member};
    };
  };
  builder.count("reverse_customers", "Customers who bought them in the other order.",
                of_two(&Transition::reverse));
  builder.count("customers_one_way",
                "Customers whose first purchase of the later one is on a later day than that of the earlier "
                "one.",
                of_two(&Transition::one_way));
  builder.count("customers_other_way", "Customers who did the opposite.", of_two(&Transition::other_way));
  if (!counts.tests_directions) return;
  builder.number(
      "expected_one_way",
      "Customers expected one way, of both numbers together, by when customers usually buy each for the "
      "first "
      "time.",
      1, [](Pair pair) { return pair->earlier == pair->later ? std::nan("") : pair->expected_one_way; });
  builder.text(
      "direction",
      "\"this way\" or \"other way\" if one is significantly more frequent (q_value up to 0.05); \"either\" "
      "otherwise.",
      [&](Pair pair) { return pair->earlier == pair->later ? "" : to_text(counts.direction(*pair)); });
  const auto nan_of_itself = [](Pair pair, double value) {
    return pair->earlier == pair->later ? std::nan("") : value;
  };
  builder.probability(
      "p_value",
      "Probability of a number one way this far from the expected one, if neither triggers the "
      "other (two-sided).",
      [&](Pair pair) { return nan_of_itself(pair, pair->p); });
  builder.probability("q_value", "False discovery rate among directions with a p_value this small.",
                      [&](Pair pair) { return nan_of_itself(pair, pair->q); });
}

/// A day on which a customer bought the later one.
struct TimingRow {
  const Transition* pair = nullptr;
  std::size_t day = 0;
  statistics::SurvivalDay curve;
};

std::vector<TimingRow> timing_rows(const Counts& counts) {
  std::vector<TimingRow> rows;
  for (const auto& [pair, curve] : counts.timing)
    for (std::size_t day = 0; day < curve.size(); ++day)
      if (curve[day].events > 0) rows.push_back({pair, day, curve[day]});
  return rows;
}

}  // namespace

result::Table sequences_table(const Counts& counts) {
  using Row = ListedSequence;
  const auto& sequences = counts.sequences;
  result::Table table{"",
                      "Sequences",
                      fmt::format("One row for each sequence of {} that customers bought on successive days.",
                                  analysis::plural_of(counts.item)),
                      {}};
  const auto texts = [&](bool names) {
    return analysis::parallel_texts(sequences.size(), [&](std::size_t row, std::string& text) {
      text = counts.text_of(sequences[row].items, names);
    });
  };
  analysis::TableBuilder builder(table, sequences);
  builder
      .add(result::text_column("steps", "Steps joined by \" > \", items of one order by \" + \".",
                               texts(false)))
      .always_shown = true;
  if (counts.names().are_named()) {
    builder.add(result::text_column("names", "The same with names.", texts(true))).always_shown = true;
  }
  builder.count("length", "Steps.", [](const Row& row) { return mining::steps_of(row.items); });
  builder
      .count("customers", "Customers who went through all steps.",
             [](const Row& row) { return row.facts.customers; })
      .always_shown = true;
  builder.share("support", "These as a share of all customers.",
                [&](const Row& row) { return row.facts.customers * 1.0 / counts.histories.buyers; });
  builder
      .share("rate_given_previous", "Share of the customers of all steps but the last who took the last.",
             [](const Row& row) { return row.facts.customers * 1.0 / row.given; })
      .always_shown = true;
  builder
      .days("days_median", "Days from the last step but one to the last; median.",
            [](const Row& row) { return row.facts.last_days; })
      .always_shown = true;
  builder.days("days_total_median", "Days from the first step to the last; median.",
               [](const Row& row) { return row.facts.all_days; });
  builder.number("least_lift",
                 "The least lift of its steps: rate given the steps before, divided by the step's base rate.",
                 1, [](const Row& row) { return row.least_lift; });
  builder.number("least_rate_ratio", "The least rate_ratio of its steps, each as a separate pair.", 1,
                 [](const Row& row) { return row.least_ratio; });
  for (const Row& row : sequences) table.faint.push_back(row.is_found ? 0 : 1);
  return table;
}

result::Table transitions_table(const Counts& counts) {
  using Pair = const Transition*;
  result::Table table{"next",
                      "Products bought next",
                      fmt::format("One row for each two {} that customers bought one after the other.",
                                  analysis::plural_of(counts.item)),
                      {}};
  analysis::TableBuilder builder(table, counts.pairs);
  counts.names().add_columns("earlier", fmt::format("The {} bought first.", counts.item),
                             builder.codes([](Pair pair) { return pair->earlier; }), table.columns);
  counts.names().add_columns("later", fmt::format("The {} bought afterwards.", counts.item),
                             builder.codes([](Pair pair) { return pair->later; }), table.columns);
  builder.count("customers_earlier", "Customers who bought the first.",
                [&](Pair pair) { return counts.histories.counts[pair->earlier]; });
  builder
      .count("customers_both", "Of these, customers who bought the other afterwards.",
             [](Pair pair) { return pair->both; })
      .always_shown = true;
  builder
      .share("rate", "These as a share of the customers who bought the first.",
             [&](Pair pair) { return counts.rate(*pair); })
      .always_shown = true;
  builder.share("base_rate", "Share of all customers who bought the other after any order of theirs.",
                [&](Pair pair) { return counts.base_rate(pair->later); });
  builder.number("lift", "rate / base_rate.", 1, [&](Pair pair) { return counts.lift(*pair); }).always_shown =
      true;
  if (is_directed(counts)) add_direction(counts, builder);
  builder.days("days_p25", "Days between the two: first quartile.", [](Pair pair) { return pair->days_p25; });
  builder.days("days_median", "Median of these days.", [](Pair pair) { return pair->days_median; })
      .always_shown = true;
  builder.days("days_p75", "Third quartile of these days.", [](Pair pair) { return pair->days_p75; });
  builder
      .number("rate_ratio",
              "How many times the usual rate per day the other is bought from days_p25 to days_p75; the "
              "table is sorted by the lower end of its 95% interval.",
              1, [](Pair pair) { return pair->rate_ratio; })
      .always_shown = true;
  for (std::size_t i = 0; i < kRateDays.size(); ++i)
    builder.share(fmt::format("rate_{}", kRateDays[i]),
                  fmt::format("Share who have bought the other within {} days, if all had been observed that "
                              "long (Kaplan-Meier).",
                              kRateDays[i]),
                  [i](Pair pair) { return pair->rates[i]; });
  table.column("customers_both").heading = "both";  // so that everything shown fits on a terminal
  table.column("days_median").heading = "days";
  table.column("rate_ratio").heading = "ratio";
  for (const Pair pair : counts.pairs) table.faint.push_back(counts.is_found(*pair) ? 0 : 1);
  return table;
}

result::Table timing_table(const Counts& counts) {
  using Row = TimingRow;
  const std::vector<Row> rows = timing_rows(counts);
  result::Table table{"timing",
                      "Time to the later purchase",
                      "One row for each day on which a customer bought the later one, for the first pairs.",
                      {}};
  analysis::TableBuilder builder(table, rows);
  counts.names().add_columns("earlier", fmt::format("The {} bought first.", counts.item),
                             builder.codes([](const Row& row) { return row.pair->earlier; }), table.columns);
  counts.names().add_columns("later", fmt::format("The {} bought afterwards.", counts.item),
                             builder.codes([](const Row& row) { return row.pair->later; }), table.columns);
  builder.days("day", "Days after the first.", [](const Row& row) { return row.day; });
  builder.count("at_risk", "Customers observed until this day who had not bought the later one before.",
                [](const Row& row) { return row.curve.at_risk; });
  builder.count("customers", "Of these, customers who bought it on this day.",
                [](const Row& row) { return row.curve.events; });
  builder.share("share", "Share who have bought it by the end of this day (Kaplan-Meier).",
                [](const Row& row) { return row.curve.share; });
  builder.share("share_low", "Lower end of the 95% interval.", [](const Row& row) { return row.curve.low; });
  builder.share("share_high", "Upper end of the 95% interval.",
                [](const Row& row) { return row.curve.high; });
  table.most_shown = 3;
  return table;
}

}  // namespace pear::sequence
