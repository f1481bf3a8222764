#include "questions/offers/customer_offers.hpp"

#include <algorithm>
#include <span>
#include <utility>

#include <fmt/format.h>

#include "analysis/tables/customer_history.hpp"
#include "analysis/tables/member_column.hpp"
#include "analysis/tables/table_builder.hpp"
#include "analysis/wording.hpp"
#include "base/text.hpp"
#include "questions/offers/reasons.hpp"
#include "questions/offers/tables.hpp"

namespace pear::offers {
namespace {

/// One piece of evidence for a product.
struct EvidenceRow {
  std::uint32_t product = 0, trigger = daybook::kNoMember;
  std::int64_t days_ago = result::kEmptyCell;
  std::string position;
  recommender::Observed observed;
  double adds = 0;
};

/// The products of a history with the last day each was bought, in the order of first purchase.
std::vector<std::pair<std::uint32_t, std::int32_t>> last_days(std::span<const mining::HistoryEntry> history) {
  std::vector<std::pair<std::uint32_t, std::int32_t>> bought;
  for (const mining::HistoryEntry& entry : history) {
    const auto found = std::find_if(bought.begin(), bought.end(),
                                    [&](const auto& each) { return each.first == entry.code; });
    if (found == bought.end())
      bought.emplace_back(entry.code, entry.day);
    else
      found->second = entry.day;
  }
  return bought;
}

/// For each offer: the baseline of the group, and the contribution of each earlier purchase.
std::vector<EvidenceRow> evidence_of(const Counts& counts, std::span<const mining::HistoryEntry> history) {
  std::vector<EvidenceRow> rows;
  const auto bought = last_days(history);
  const recommender::StepModel& steps = counts.purchases().steps;
  for (const recommender::Offer& offer : counts.offers) {
    const std::uint32_t group = counts.groups().group_of(offer.customer);
    if (offer.is_repurchase)
      rows.push_back({offer.product, daybook::kNoMember, offer.own_last_ago, "bought before",
                      observed(counts, offer), offer.baseline});
    else
      rows.push_back({offer.product, daybook::kNoMember, result::kEmptyCell, "without it",
                      counts.purchases().rates.of_group(group, offer.product), offer.baseline});
    const std::size_t first_step = rows.size();
    double uplifts = 0;
    for (const auto& [product, day] : bought) {
      const std::int32_t days_ago = counts.as_of.days - day;
      const auto recency = recommender::RecencyState::of(days_ago, history.back().day > day);
      for (const recommender::StepCell& cell : steps.after(product, recency))
        if (cell.later == offer.product && (!offer.is_repurchase || product == offer.product))
          rows.push_back({offer.product, product, days_ago,
                          fmt::format("{} after, {} since", recommender::days_of_band(recency.band()),
                                      recency.ordered_since() ? "ordered" : "nothing"),
                          steps.observed(cell, group), steps.uplift(cell, group)});
    }
    // So that the contributions add up to the probability.
    for (std::size_t row = first_step; row < rows.size(); ++row) uplifts += rows[row].adds;
    for (std::size_t row = first_step; row < rows.size() && uplifts > 0; ++row)
      rows[row].adds *= (offer.probability - offer.baseline) / uplifts;
  }
  return rows;
}

result::Table observed_table(const Counts& counts, std::uint32_t group,
                             const std::vector<EvidenceRow>& rows) {
  const std::string whose = counts.groups().is_split() ? fmt::format(" ({}: {})", counts.groups().noun(),
                                                                     counts.groups().label(group))
                                                       : "";
  result::Table table{
      "observed",
      "Customers observed" + whose,
      "For each offer, the baseline of the customer's group, and the contribution of each earlier purchase.",
      {}};
  const TextArray& ids = counts.input.daybook.product_ids();
  const auto product = [](const EvidenceRow& row) { return row.product; };
  analysis::TableBuilder builder(table, rows);
  builder.id("product_id", "The offered product.", ids, product).always_shown = true;
  builder.names(counts.input.daybook, counts.products, product);
  builder
      .id("triggered_by", "The product bought earlier; empty for the baseline.", ids,
          [](const EvidenceRow& row) { return row.trigger; })
      .always_shown = true;
  builder.days("days_ago", "Days since it was last bought.",
               [](const EvidenceRow& row) { return row.days_ago; });
  builder
      .text("position", "The position of the customers observed; all belong to this customer's group.",
            [](const EvidenceRow& row) { return row.position; })
      .always_shown = true;
  builder.count("customers", "The number of customers observed.",
                [](const EvidenceRow& row) { return row.observed.customers; });
  builder
      .share("rate", "Share of them who bought it within the horizon.",
             [](const EvidenceRow& row) { return row.observed.rate(); })
      .always_shown = true;
  builder
      .share(
          "contribution",
          "To the probability: of what the customer would buy without any step, and of each step. They add "
          "up to the probability.",
          [](const EvidenceRow& row) { return row.adds; })
      .always_shown = true;
  return table;
}

std::string why_no_offers(const Counts& counts, std::int32_t last_day) {
  const std::int32_t days_ago = counts.as_of.days - last_day;
  if (days_ago >= counts.purchases().landmarks.active)
    return fmt::format("the last order was {} ago, and customers count as active for {} (--active)",
                       counted(static_cast<std::uint64_t>(days_ago), "day"),
                       counted(static_cast<std::uint64_t>(counts.purchases().landmarks.active), "day"));
  return fmt::format("nothing that may be offered has a probability of {} or more (--min-probability)",
                     analysis::per_cent(counts.constraints.min_probability));
}

std::vector<std::string> customer_headline(const Counts& counts, const std::string& who,
                                           std::int32_t last_day) {
  if (counts.offers.empty())
    return {fmt::format("No offers for {}: {}.", who, why_no_offers(counts, last_day))};
  const recommender::Offer& first = counts.offers.front();
  return {fmt::format("{}: first {}, probability {}, {} {} expected.", who,
                      counts.names().title(first.product), analysis::per_cent(first.probability),
                      analysis::rounded_money_text(counts.expected_value(first), counts.input.currency),
                      counts.has_margins() ? "margin" : "sales"),
          fmt::format("Why: {}.", reason(counts, first))};
}

}  // namespace

OrError<result::Result> customer_result(const std::shared_ptr<const Counts>& kept) {
  const Counts& counts = *kept;
  PEAR_ASSIGN(const std::uint32_t customer, customer_asked(counts));
  const std::string who = analysis::label_with_name(counts.input.daybook, counts.customers, customer);
  const auto history = counts.known.of(customer);
  if (history.empty())
    return data_error(fmt::format("{} bought nothing up to {}.", who, to_text(counts.as_of)));
  result::Result result;
  result.headline = customer_headline(counts, who, history.back().day);
  result.tables = {plan_table(kept), evidence_table(counts),
                   observed_table(counts, counts.groups().group_of(customer), evidence_of(counts, history)),
                   analysis::customer_history_table(counts.input.daybook, customer)};
  result.tables.back().part = "history";
  return result;
}

}  // namespace pear::offers
