#include "questions/first/entry_products.hpp"

#include <algorithm>
#include <utility>

#include <fmt/format.h>

#include "analysis/member_column.hpp"
#include "analysis/parallel_fold.hpp"
#include "analysis/wording.hpp"
#include "base/text.hpp"
#include "daybook/purchases.hpp"
#include "daybook/walk_lines.hpp"
#include "questions/first/tables.hpp"
#include "statistics/quantile.hpp"
#include "statistics/wilson_interval.hpp"

namespace pear::first {
namespace {

/// What the customers who began with one code come to.
struct Sums {
  std::uint64_t new_customers = 0, judged = 0, later_orders = 0;
  DecimalSum later_amount;
};

struct EntryState {
  std::vector<Sums> sums;                                    ///< by code
  std::vector<std::pair<std::uint32_t, std::int32_t>> days;  ///< codes, and days to the second order
  std::vector<std::uint32_t> codes;                          ///< of the customer at hand
};

class EntryCounter {
 public:
  EntryCounter(const daybook::Daybook& daybook, const expression::GroupKey& key,
               const std::vector<FirstOrders>& beginnings)
      : daybook_(daybook),
        key_(key),
        beginnings_(beginnings),
        purchases_(daybook),
        products_(daybook.line_products()) {}

  void absorb(EntryState& state, std::uint32_t customer) const {
    const FirstOrders& beginning = beginnings_[customer];
    if (!beginning.has_order()) return;
    state.codes.clear();
    const daybook::Run lines = daybook_.lines_of(beginning.first);
    for (std::uint32_t line = lines.begin; line < lines.end; ++line) {
      const daybook::LinePlace place{line, beginning.first, customer, products_[line]};
      if (!purchases_.is_return(line)) state.codes.push_back(key_.codes[place.member(key_.level)]);
    }
    std::sort(state.codes.begin(), state.codes.end());
    state.codes.erase(std::unique(state.codes.begin(), state.codes.end()), state.codes.end());
    for (const std::uint32_t code : state.codes) {
      Sums& sums = state.sums[code];
      ++sums.new_customers;
      if (!beginning.judged) continue;
      ++sums.judged;
      sums.later_orders += beginning.later_orders;
      sums.later_amount.add(Decimal::from_units(beginning.later_amount));
      if (beginning.came_back())
        state.days.emplace_back(code, days_between(daybook_.date_of_order(beginning.first),
                                                   daybook_.date_of_order(beginning.second)));
    }
  }

 private:
  const daybook::Daybook& daybook_;
  const expression::GroupKey& key_;
  const std::vector<FirstOrders>& beginnings_;
  daybook::Purchases purchases_;
  std::span<const std::uint32_t> products_;
};

void merge(EntryState& earlier, const EntryState& later) {
  for (std::size_t code = 0; code < earlier.sums.size(); ++code) {
    Sums& sums = earlier.sums[code];
    const Sums& more = later.sums[code];
    sums.new_customers += more.new_customers;
    sums.judged += more.judged;
    sums.later_orders += more.later_orders;
    sums.later_amount.add(more.later_amount);
  }
  earlier.days.insert(earlier.days.end(), later.days.begin(), later.days.end());
}

/// Error: data, where a mean leaves the range of Decimal.
OrError<Entry> entry_of(std::uint32_t code, const Sums& sums, std::vector<std::int32_t>& days) {
  Entry entry{code,
              sums.new_customers,
              sums.judged,
              days.size(),
              result::kEmptyCell,
              result::kEmptyCell,
              result::kEmptyCell};
  if (const auto median = statistics::quantile_of(days, statistics::kHalf)) entry.days_median = *median;
  if (entry.judged == 0) return entry;
  DecimalSum orders;
  orders.add(Decimal::from_units(static_cast<std::int64_t>(sums.later_orders) * Decimal::kScale));
  const auto amount = sums.later_amount.mean(sums.judged);
  if (!amount)
    return data_error(
        "the later amounts of entry products come to more than 922,337,203,685,477. Look for wrong prices.");
  entry.later_orders = orders.mean(sums.judged)->units();
  entry.later_amount = amount->units();
  return entry;
}

std::vector<Entry> comparable(const Entries& entries, const Options& options) {
  std::vector<Entry> enough;
  for (const Entry& entry : entries.entries)
    if (entry.judged >= static_cast<std::uint64_t>(options.at_least)) enough.push_back(entry);
  return enough;
}

/// The entries whose customers came back most and least often, of those whose intervals leave the share of
/// all aside. By the ends of the intervals, so that a few customers who happened to come back do not go
/// before many who did.
struct EntryExtremes {
  std::optional<Entry> best, worst;
};

EntryExtremes extremes_of(const Entries& entries, const std::vector<Entry>& compared) {
  const double all = static_cast<double>(entries.came_back) / static_cast<double>(entries.judged);
  EntryExtremes extremes;
  double highest = all, lowest = all;
  for (const Entry& entry : compared) {
    const statistics::Interval interval = statistics::wilson_interval(entry.came_back, entry.judged);
    if (interval.low > highest) extremes.best = entry, highest = interval.low;
    if (interval.high < lowest) extremes.worst = entry, lowest = interval.high;
  }
  return extremes;
}

/// The headline in fewer words, for the figure.
std::string entry_title(const Entries& entries, const std::vector<Entry>& compared,
                        const expression::GroupKey& key, const daybook::Daybook& daybook) {
  const auto [best, worst] = extremes_of(entries, compared);
  if (!best && !worst) return "No entry stands out: all bring about as many customers back.";
  const auto told = [&](const Entry& entry) {
    return fmt::format("with {}: {}", analysis::label_with_name(daybook, key, entry.code),
                       analysis::per_cent(entry.came_back, entry.judged));
  };
  if (best && worst) return fmt::format("Who began {} came back; {}.", told(*best), told(*worst));
  return best ? fmt::format("Clearest above the rest, who began {} came back.", told(*best))
              : fmt::format("Clearest below the rest, who began {} came back.", told(*worst));
}

}  // namespace

OrError<Entries> entry_products_of(const daybook::Daybook& daybook, const expression::GroupKey& key,
                                   const std::vector<FirstOrders>& beginnings) {
  const EntryCounter counter(daybook, key, beginnings);
  const EntryState state = analysis::fold_customers(
      daybook,
      [&] {
        return EntryState{std::vector<Sums>(key.distinct + 1), {}, {}};
      },
      [&](EntryState& own, std::uint32_t customer) { counter.absorb(own, customer); }, merge);
  std::vector<std::vector<std::int32_t>> days(state.sums.size());
  for (const auto& [code, to_second] : state.days) days[code].push_back(to_second);
  Entries entries;
  for (std::uint32_t code = 0; code < state.sums.size(); ++code) {
    if (state.sums[code].new_customers == 0) continue;
    PEAR_ASSIGN(const Entry entry, entry_of(code, state.sums[code], days[code]));
    entries.entries.push_back(entry);
  }
  std::stable_sort(entries.entries.begin(), entries.entries.end(),
                   [](const Entry& a, const Entry& b) { return a.new_customers > b.new_customers; });
  for (const FirstOrders& beginning : beginnings) {
    entries.customers += beginning.has_order() ? 1U : 0U;
    entries.judged += beginning.judged ? 1U : 0U;
    entries.came_back += beginning.judged && beginning.came_back() ? 1U : 0U;
  }
  return entries;
}

result::Table entry_table(const Entries& entries, const expression::GroupKey& key,
                          const daybook::Daybook& daybook, const Options& options) {
  std::vector<std::uint32_t> codes;
  std::vector<std::int64_t> customers, judged, came_back, days, orders, amounts;
  std::vector<double> shares, share_low, share_high, back_shares, back_low, back_high;
  for (const Entry& entry : entries.entries) {
    codes.push_back(entry.code);
    customers.push_back(static_cast<std::int64_t>(entry.new_customers));
    judged.push_back(static_cast<std::int64_t>(entry.judged));
    came_back.push_back(static_cast<std::int64_t>(entry.came_back));
    days.push_back(entry.days_median);
    orders.push_back(entry.later_orders);
    amounts.push_back(entry.later_amount);
    shares.push_back(static_cast<double>(entry.new_customers) / static_cast<double>(entries.customers));
    back_shares.push_back(entry.share());  // NaN, which is empty, where nobody is judged
    const statistics::Interval share = statistics::wilson_interval(entry.new_customers, entries.customers);
    const statistics::Interval back = statistics::wilson_interval(entry.came_back, entry.judged);
    share_low.push_back(share.low), share_high.push_back(share.high);
    back_low.push_back(back.low), back_high.push_back(back.high);
  }
  const std::string name = entry_name(options);
  const std::string days_told = counted(static_cast<std::uint64_t>(options.follow), "day");
  result::Table table{
      "entry",
      fmt::format("Entry {}: what customers began with, and what became of them", analysis::plural_of(name)),
      fmt::format("One row for each {} of first orders; a customer counts once for each.", name),
      {}};
  auto& columns = table.columns;
  columns.push_back(analysis::key_column(options.per ? options.per->name : "product_id",
                                         fmt::format("The {}.", name), key, codes));
  analysis::add_names(daybook, key, codes, columns);
  columns.push_back(result::integer_column("new_customers", result::Unit::count,
                                           "Customers whose first order holds it.", std::move(customers)));
  columns.push_back(result::share_column("share", "These as a share of all customers who placed an order.",
                                         std::move(shares)));
  columns.push_back(result::integer_column(
      "judged", result::Unit::count,
      fmt::format("Of the new customers, those whose first {} lie wholly within the data.", days_told),
      std::move(judged)));
  columns.push_back(result::integer_column(
      "came_back", result::Unit::count,
      fmt::format("Of the judged, those with a second order within {}.", days_told), std::move(came_back)));
  columns.push_back(
      result::share_column("came_back_share", "These as a share of the judged.", std::move(back_shares)));
  columns.push_back(result::share_column(
      "came_back_low", "Lower end of the 95% Wilson interval of came_back_share.", std::move(back_low)));
  columns.push_back(result::share_column(
      "came_back_high", "Upper end of the 95% Wilson interval of came_back_share.", std::move(back_high)));
  columns.push_back(result::integer_column("days_to_second_median", result::Unit::days,
                                           "Median of the days to the second order, of those who came back.",
                                           std::move(days)));
  columns.push_back(result::integer_column(
      "later_orders", result::Unit::number,
      fmt::format("Mean number of orders after the first within {}, of the judged.", days_told),
      std::move(orders)));
  columns.back().places = 2;
  columns.push_back(result::integer_column(
      "later_amount", result::Unit::money,
      fmt::format("Mean amount after the first order within {}, of the judged.", days_told),
      std::move(amounts)));
  columns.back().places = 2;
  columns.push_back(result::share_column("share_low", "Lower end of the 95% Wilson interval of share.",
                                         std::move(share_low)));
  columns.push_back(result::share_column("share_high", "Upper end of the 95% Wilson interval of share.",
                                         std::move(share_high)));
  return table;
}

std::string entry_headline(const Entries& entries, const expression::GroupKey& key,
                           const daybook::Daybook& daybook, const Options& options) {
  const std::vector<Entry> enough = comparable(entries, options);
  if (enough.size() < 2) return "";
  const auto [best, worst] = extremes_of(entries, enough);
  const std::string whole = analysis::per_cent(entries.came_back, entries.judged);
  const std::string within = counted(static_cast<std::uint64_t>(options.follow), "day");
  if (!best && !worst)
    return fmt::format("No entry {} stands out: within {}, {} of all customers came back.",
                       entry_name(options), within, whole);
  const auto told = [&](const Entry& entry) {
    return fmt::format("those who began with {}: {} of {}",
                       analysis::label_with_name(daybook, key, entry.code),
                       analysis::per_cent(entry.came_back, entry.judged), counted(entry.judged, "customer"));
  };
  std::string text = fmt::format("Within {}, {} of all customers came back", within, whole);
  if (best) text += "; clearest above that, " + told(*best);
  if (worst) text += "; clearest below, " + told(*worst);
  return text + ".";
}

std::vector<result::Figure> entry_figure(const Entries& entries, const expression::GroupKey& key,
                                         const daybook::Daybook& daybook, const Options& options) {
  constexpr std::size_t kMost = 18;
  std::vector<Entry> enough = comparable(entries, options);
  if (enough.size() < 2) return {};
  const std::size_t all = enough.size();
  if (enough.size() > kMost) enough.resize(kMost);  // those with most new customers
  std::stable_sort(enough.begin(), enough.end(),
                   [](const Entry& a, const Entry& b) { return a.share() > b.share(); });
  TextArray labels;
  std::vector<double> shares, low, high;
  std::vector<std::int64_t> customers;
  result::Figure figure;
  const double average = static_cast<double>(entries.came_back) / static_cast<double>(entries.judged);
  for (const Entry& entry : enough) {
    labels.push_back(analysis::label_with_name(daybook, key, entry.code));
    shares.push_back(entry.share());
    const statistics::Interval interval = statistics::wilson_interval(entry.came_back, entry.judged);
    low.push_back(interval.low), high.push_back(interval.high);
    customers.push_back(static_cast<std::int64_t>(entry.judged));
    if (interval.low > average || interval.high < average) figure.noticed.push_back(labels.size() - 1);
  }
  figure.kind = result::Figure::Kind::intervals;
  figure.part = "entry";
  figure.title = entry_title(entries, enough, key, daybook);
  const std::string shown = all > kMost ? fmt::format("the {} commonest of {} entry {}", kMost, all,
                                                      analysis::plural_of(entry_name(options)))
                                        : fmt::format("entry {}", analysis::plural_of(entry_name(options)));
  figure.subtitle = fmt::format(
      "Share of new customers who ordered again within {}, with 95% intervals; {} with {} or more to judge",
      counted(static_cast<std::uint64_t>(options.follow), "day"), shown,
      counted(static_cast<std::uint64_t>(options.at_least), "customer"));
  figure.marks.columns = {
      result::text_column(entry_name(options), "What they began with.", std::move(labels)),
      result::share_column("came_back_share", "Share who came back.", std::move(shares)),
      result::share_column("low", "Lower end of the interval.", std::move(low)),
      result::share_column("high", "Upper end of the interval.", std::move(high)),
      result::integer_column("judged", result::Unit::count, "Customers judged.", std::move(customers))};
  figure.interval = {2, 3};
  figure.totals = 4;
  figure.reference = average;
  figure.reference_label = fmt::format("all: {}", analysis::per_cent(entries.came_back, entries.judged));
  figure.label_title = "customers judged";
  figure.value_title = "share who came back";
  return {figure};
}

}  // namespace pear::first
