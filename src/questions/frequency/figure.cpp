#include "questions/frequency/figure.hpp"

#include <algorithm>
#include <limits>
#include <utility>

#include <fmt/format.h>

#include "analysis/figure_cutoff.hpp"
#include "analysis/tables/table_builder.hpp"
#include "analysis/wording.hpp"
#include "base/text.hpp"
#include "questions/frequency/finding.hpp"

namespace pear::frequency {
namespace {

/// The distribution with the missing numbers between those that occur, so that the axis is even: only for
/// orders and the like, if there are few.
Distribution with_gaps(const Distribution& distribution) {
  const bool even = !distribution.is_banded && !distribution.values.empty() &&
                    distribution.values.front() >= 0 &&
                    distribution.values.back() - distribution.values.front() < 1'000;
  if (!even) return distribution;
  const std::int64_t first = std::min<std::int64_t>(1, distribution.values.front());
  const auto places = static_cast<std::size_t>(distribution.values.back() - first + 1);
  Distribution filled;
  for (const std::vector<std::uint64_t>& of_group : distribution.customers) {
    std::vector<std::uint64_t>& customers = filled.customers.emplace_back(places + 1);
    for (std::size_t i = 0; i < distribution.values.size(); ++i)
      customers[static_cast<std::size_t>(distribution.values[i] - first)] = of_group[i];
  }
  for (std::size_t i = 0; i < places; ++i)
    filled.labels.push_back(std::to_string(first + static_cast<std::int64_t>(i)));
  return filled;
}

/// The part of the distribution that the figure shows: its first places, and what it combines after them.
struct Shown {
  Distribution distribution;  ///< without gaps
  std::size_t places = 0;
  std::string rest;  ///< the label of what is combined; empty if nothing is

  [[nodiscard]] const std::string& label(std::size_t place) const {
    return place < places ? distribution.labels[place] : rest;
  }
};

/// Bars 1, 2, 3, ... and "N or more" if the tail is long: enough places for 98% of the customers, up to a
/// maximum.
Shown shown_places(const Counts& counts, std::size_t most) {
  Shown shown{with_gaps(counts.distribution), 0, ""};
  const Distribution& distribution = shown.distribution;
  shown.places = distribution.places();
  if (distribution.is_banded) return shown;
  std::vector<std::uint64_t> customers;
  for (std::size_t place = 0; place < distribution.places(); ++place)
    customers.push_back(distribution.all(place));
  const analysis::FigureCutoff tail = analysis::cutoff_for(customers, most);
  shown.places = tail.shown;
  if (!tail.gathers) return shown;
  shown.rest = distribution.labels[tail.shown];
  if (tail.shown + 1 < distribution.places()) shown.rest += " or more";
  return shown;
}

/// By place shown: the customers of some groups, as shares of these groups.
std::vector<double> shares_of(const std::vector<std::uint32_t>& groups, const Shown& shown) {
  std::vector<double> shares(shown.places + (shown.rest.empty() ? 0 : 1));
  double all = 0;
  for (const std::uint32_t group : groups) {
    const std::vector<std::uint64_t>& customers = shown.distribution.customers[group];
    for (std::size_t place = 0; place < shown.distribution.places(); ++place) {
      shares[std::min(place, shown.places)] += static_cast<double>(customers[place]);
      all += static_cast<double>(customers[place]);
    }
  }
  for (double& share : shares) share /= all;
  return shares;
}

/// A bar of the figure.
struct Bar {
  std::string label;
  double share = 0;
};

result::Figure plain_figure(const Counts& counts) {
  const Shown shown = shown_places(counts, counts.options.count ? 25 : 12);
  const std::vector<double> shares = shares_of({0}, shown);
  std::vector<Bar> bars;
  for (std::size_t place = 0; place < shares.size(); ++place)
    bars.push_back({shown.label(place), shares[place]});
  result::Figure figure;
  analysis::TableBuilder builder(figure.marks, bars);
  builder.text("label", counts.noun(), [](const Bar& bar) { return bar.label; });
  builder.share("share", "Share of customers.", [](const Bar& bar) { return bar.share; });
  result::BarChart chart;
  chart.label = "label";
  chart.value = "share";
  if (!shown.rest.empty()) chart.other = shown.places;
  chart.label_title = counts.options.count ? counts.noun() : "orders placed";
  chart.value_title = "share of customers";
  chart.in_order = counts.distribution.is_banded;
  if (!chart.in_order && !counts.options.count) chart.noticed = {0};
  figure.chart = std::move(chart);
  return figure;
}

/// Groups in their order, or the largest ones if there are too many to read, and the others together.
std::vector<std::vector<std::uint32_t>> shown_groups(const Counts& counts) {
  const std::size_t most = counts.groups.is_time() ? 40 : 14;
  std::vector<std::uint32_t> groups;
  for (std::uint32_t group = 0; group < counts.groups.count; ++group)
    if (counts.customers(group) > 0) groups.push_back(group);
  std::vector<std::uint32_t> others;
  if (groups.size() > most) {
    std::stable_sort(groups.begin(), groups.end(), [&](std::uint32_t a, std::uint32_t b) {
      return counts.customers(a) > counts.customers(b);
    });
    others.assign(groups.begin() + static_cast<std::ptrdiff_t>(most), groups.end());
    groups.resize(most);
    std::sort(groups.begin(), groups.end());
  }
  std::vector<std::vector<std::uint32_t>> shown;
  for (const std::uint32_t group : groups) shown.push_back({group});
  if (!others.empty()) shown.push_back(others);
  return shown;
}

/// A bar of the split figure: a group, or the smaller groups together, with its share at each place.
struct GroupBar {
  std::string label, total;
  std::vector<double> shares;
};

std::vector<GroupBar> group_bars(const Counts& counts, const Shown& shown) {
  std::vector<GroupBar> bars;
  for (const std::vector<std::uint32_t>& groups : shown_groups(counts)) {
    std::uint64_t customers = 0;
    for (const std::uint32_t group : groups) customers += counts.customers(group);
    bars.push_back(
        {groups.size() == 1 ? counts.groups.label(groups.front()) : fmt::format("other ({})", groups.size()),
         counted(customers, "customer"), shares_of(groups, shown)});
  }
  return bars;
}

result::Figure split_figure(const Counts& counts) {
  const Shown shown = shown_places(counts, 7);
  const std::vector<GroupBar> bars = group_bars(counts, shown);
  result::Figure figure;
  result::StackedBarChart chart;
  analysis::TableBuilder builder(figure.marks, bars);
  builder.text(chart.label = "label", "The group.", [](const GroupBar& bar) { return bar.label; });
  builder.text(chart.total = "total", "Customers of the group.",
               [](const GroupBar& bar) { return bar.total; });
  for (std::size_t place = 0; place < bars.front().shares.size(); ++place) {
    const std::string label = shown.label(place);
    const bool first_of_orders = place == 0 && !counts.options.count && label == "1";
    std::vector<double> shares;
    for (const GroupBar& bar : bars) shares.push_back(bar.shares[place]);
    chart.series.push_back(analysis::add_series(figure.marks,
                                                first_of_orders ? "1 order"
                                                : place == 0    ? label + " " + counts.noun()
                                                                : label,
                                                result::share_column("", label, std::move(shares))));
  }
  chart.series_in_order = true;
  chart.value_title = fmt::format("share of the customers of each {}", counts.groups.noun());
  figure.chart = std::move(chart);
  return figure;
}

}  // namespace

result::Figure figure_of(const Counts& counts, const std::vector<std::string>& headline) {
  result::Figure figure = counts.groups.is_split() ? split_figure(counts) : plain_figure(counts);
  figure.title = counts.groups.is_split() && !is_unfair(counts) ? headline[1]
                 : counts.options.count                         ? headline.back()
                                                                : headline.front();
  figure.subtitle = fmt::format("Share of customers by {}{}; {}",
                                counts.options.count ? counts.noun() : "the number of orders they placed",
                                counts.in_window(), counted(counts.customers(), "customer"));
  return figure;
}

namespace {

/// "1 order", "6 to 10 orders", "11 orders or more"
std::string orders_text(const OrderBand& band) {
  if (band.to == 0)
    return band.from == 1 ? "any number of orders" : fmt::format("{} orders or more", band.from);
  if (band.from == band.to) return counted(std::uint64_t{band.from}, "order");
  return fmt::format("{} to {} orders", band.from, band.to);
}

/// At even distances, the first and the last among them: more curves would lie on top of one another.
std::vector<const OrderBand*> drawn_bands(const QuietCustomers& quiet) {
  constexpr std::size_t kMost = 4;
  const std::size_t bands = quiet.bands.size(), shown = std::min(kMost, bands);
  std::vector<const OrderBand*> drawn;
  for (std::size_t i = 0; i < shown; ++i)
    drawn.push_back(&quiet.bands[shown == 1 ? 0 : i * (bands - 1) / (shown - 1)]);
  return drawn;
}

/// The share who order again after as many days of silence as are looked ahead.
std::string waiting_title(const QuietCustomers& quiet) {
  const std::string days = counted(static_cast<std::uint64_t>(quiet.horizon), "day");
  std::vector<std::string> parts;
  const std::size_t last = quiet.bands.size() - 1;
  for (const std::size_t i : last == 0 ? std::vector<std::size_t>{0} : std::vector<std::size_t>{0, last})
    if (const auto share = quiet.bands[i].share_after(quiet.horizon, quiet.horizon))
      parts.push_back(fmt::format("{} with {}", analysis::per_cent(*share), orders_text(quiet.bands[i])));
  if (parts.empty()) return "How long customers wait until they order again";
  return fmt::format("Of customers silent for {}, {} order again within {}", days, join(parts, " and "),
                     days);
}

}  // namespace

std::optional<result::Figure> waiting_figure(const Counts& counts) {
  constexpr std::size_t kMostDays = 365, kFewest = 20;
  std::size_t days = 0;
  for (const OrderBand& band : counts.quiet->bands)
    for (std::size_t day = 0; day < std::min(band.curve.size(), kMostDays + 1); ++day)
      if (band.curve[day].at_risk >= kFewest && band.next > 0) days = std::max(days, day);
  if (days == 0) return std::nullopt;
  const analysis::NumberedRows rows{days + 1};
  result::Figure figure;
  figure.part = "waiting";
  figure.title = waiting_title(*counts.quiet);
  figure.subtitle =
      "Share of customers who have ordered again, by days since their order (Kaplan-Meier), and by the "
      "number "
      "of that order";
  result::LineChart chart;
  analysis::TableBuilder builder(figure.marks, rows);
  builder.text(chart.label = "day", "Days since the order.",
               [](std::size_t day) { return std::to_string(day); });
  for (const OrderBand* band : drawn_bands(*counts.quiet)) {
    std::vector<double> shares;
    for (std::size_t day = 0; day <= days; ++day)
      shares.push_back(day < band->curve.size() && band->curve[day].at_risk >= kFewest
                           ? band->curve[day].share
                           : std::numeric_limits<double>::quiet_NaN());
    chart.series.push_back(
        analysis::add_series(figure.marks, orders_text(*band),
                             result::share_column("", "Share that has ordered again.", std::move(shares))));
  }
  chart.axis = result::LabelAxis::days;
  chart.label_title = "days since the order";
  chart.value_title = "share that has ordered again";
  chart.series_in_order = true;
  figure.chart = std::move(chart);
  return figure;
}

}  // namespace pear::frequency
