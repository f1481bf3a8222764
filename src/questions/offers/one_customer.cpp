// One customer's offers, with all that speaks for them.
#include <algorithm>

#include <fmt/format.h>

#include "analysis/member_column.hpp"
#include "analysis/table_builder.hpp"
#include "base/text.hpp"
#include "questions/lookup/customer.hpp"
#include "questions/offers/finding.hpp"

namespace pear::offers {
namespace {

/// One thing that speaks for a product.
struct EvidenceRow {
  std::uint32_t product = 0, because_of = expression::kNoMember;
  std::int64_t days_ago = result::kEmptyCell;
  std::string position;
  recommender::Observed seen;
  double adds = 0;
};

/// For each offer: what the group does, and what each product bought before adds.
std::vector<EvidenceRow> evidence_of(const Finding& finding, std::span<const mining::HistoryEntry> history) {
  std::vector<EvidenceRow> rows;
  for (const recommender::Offer& offer : finding.offers) {
    const std::uint32_t group = finding.groups.group_of(offer.customer);
    rows.push_back({offer.product, expression::kNoMember, result::kEmptyCell, "without it",
                    finding.model->evidence.of_group(group, offer.product), offer.anyway});
    std::vector<std::pair<std::uint32_t, std::int32_t>> bought;  // product, last day
    for (const mining::HistoryEntry& entry : history) {
      const auto found = std::find_if(bought.begin(), bought.end(),
                                      [&](const auto& each) { return each.first == entry.code; });
      if (found == bought.end())
        bought.emplace_back(entry.code, entry.day);
      else
        found->second = entry.day;
    }
    for (const auto& [product, day] : bought) {
      const std::int32_t days_ago = finding.as_of.days - day;
      const std::size_t standing = recommender::standing_of(days_ago, history.back().day > day);
      const recommender::StepModel& evidence = finding.model->evidence;
      for (const recommender::StepCell& cell : evidence.after(product, standing))
        if (cell.later == offer.product)
          rows.push_back({offer.product, product, days_ago,
                          fmt::format("{} after, {} since", recommender::days_of_standing(standing),
                                      recommender::has_ordered_since(standing) ? "ordered" : "nothing"),
                          evidence.seen(cell, group), evidence.excess(cell, group)});
    }
  }
  return rows;
}

result::Table evidence_table(const Finding& finding, std::uint32_t group,
                             const std::vector<EvidenceRow>& rows) {
  result::Table table{
      "evidence",
      finding.groups.is_split()
          ? fmt::format("What speaks for them ({}: {})", finding.groups.noun(), finding.groups.label(group))
          : "What speaks for them",
      "For each offer, what customers of the group do, and what each product bought before adds.",
      {}};
  std::vector<std::uint32_t> products, because;
  TextArray positions;
  for (const EvidenceRow& row : rows) {
    products.push_back(row.product), because.push_back(row.because_of);
    positions.push_back(row.position);
  }
  const TextArray& ids = finding.asked.daybook.product_ids();
  table.columns.push_back(analysis::id_column("product_id", "What is offered.", ids, products));
  table.columns.back().always_shown = true;
  analysis::add_names(finding.asked.daybook, finding.products, products, table.columns);
  table.columns.push_back(
      analysis::id_column("because_of", "What was bought before; empty for the group.", ids, because));
  table.columns.back().always_shown = true;
  analysis::RowColumns<EvidenceRow> columns(rows, table.columns);
  columns.whole("days_ago", result::Unit::days, "Since that was bought last.",
                [](const EvidenceRow& row) { return row.days_ago; });
  table.columns.push_back(result::text_column(
      "position", "How customers stood to it, of whom this was seen: all of the group of this customer.",
      std::move(positions)));
  table.columns.back().always_shown = true;
  columns.whole("customers", result::Unit::count, "How many these were.",
                [](const EvidenceRow& row) { return row.seen.customers; });
  columns
      .share("rate", "Share of them that bought it within the horizon.",
             [](const EvidenceRow& row) { return row.seen.rate(); })
      .always_shown = true;
  columns
      .share("adds",
             "To the chance: for the group, the chance from this customer's habits; for a purchase, what it "
             "adds: 1 - (1 - a) x (1 - b) ... of all is the chance.",
             [](const EvidenceRow& row) { return row.adds; })
      .always_shown = true;
  return table;
}

}  // namespace

OrError<result::Result> ask_one_customer(const std::shared_ptr<Finding>& kept, const mining::Histories& known,
                                         std::uint32_t customer) {
  Finding& finding = *kept;
  constexpr std::size_t kListed = 10;
  finding.offers.clear();
  recommender::Scorer(*finding.model, known, finding.bounds)
      .best(customer, std::max(kListed, finding.bounds.per_customer), finding.offers);
  const std::string who = analysis::label_with_name(finding.asked.daybook, finding.customers, customer);
  const auto history = known.of(customer);
  result::Result result;
  if (history.empty())
    return data_error(fmt::format("{} bought nothing up to {}.", who, to_text(finding.as_of)));
  if (finding.offers.empty()) {
    result.headline = {fmt::format(
        "No offers for {}: {}.", who,
        finding.as_of.days - history.back().day >= finding.model->lookback.active
            ? fmt::format("the last order was {} ago, and customers count as active for {} (--active)",
                          counted(static_cast<std::uint64_t>(finding.as_of.days - history.back().day), "day"),
                          counted(static_cast<std::uint64_t>(finding.model->lookback.active), "day"))
            : fmt::format("nothing that may be offered has a chance of {:.1f}% or more (--min-chance)",
                          100 * finding.bounds.least_chance))};
  } else {
    const recommender::Offer& first = finding.offers.front();
    result.headline = {
        fmt::format("{}: first {}, chance {:.1f}%, {} {} expected.", who,
                    finding.names().title(first.product), 100 * first.chance,
                    finding.money(finding.expected_value(first)), finding.has_margins() ? "margin" : "sales"),
        fmt::format("Why: {}.", finding.reason(first))};
  }
  result.tables = {plan_table(kept),
                   evidence_table(finding, finding.groups.group_of(customer), evidence_of(finding, history)),
                   lookup::customer_history_table(finding.asked.daybook, customer)};
  result.tables.back().part = "history";
  return result;
}

}  // namespace pear::offers
