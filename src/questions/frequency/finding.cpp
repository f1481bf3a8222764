// What frequency says: headline and figure.
#include <algorithm>
#include <optional>
#include <utility>

#include <fmt/format.h>

#include "analysis/figure_cutoff.hpp"
#include "analysis/wording.hpp"
#include "base/text.hpp"
#include "questions/frequency/tables.hpp"
#include "statistics/quantile.hpp"

namespace pear::frequency {
namespace {

std::string came_back(const Finding& finding) {
  const OrderFacts all = finding.all_groups();
  const std::string within =
      finding.options.within
          ? fmt::format(" within {}", counted(static_cast<std::uint64_t>(*finding.options.within), "day"))
          : "";
  if (all.came_back == 0 && all.customers == 1)
    return fmt::format("The only customer has not ordered again{}.", within);
  if (all.came_back == 0)
    return fmt::format("None of {} ordered again{}.", counted(all.customers, "customer"), within);
  if (all.came_back == all.customers)
    return all.customers == 1
               ? fmt::format("The only customer ordered again{}.", within)
               : fmt::format("All {} ordered again{}.", counted(all.customers, "customer"), within);
  const std::uint64_t once = all.customers - all.came_back;
  return fmt::format("{} of {} ({}) ordered again{}; {} ordered only once{}.",
                     with_thousands(static_cast<std::int64_t>(all.came_back)),
                     counted(all.customers, "customer"), analysis::per_cent(all.came_back, all.customers),
                     within, analysis::per_cent(once, all.customers),
                     finding.options.within ? " in that time" : "");
}

/// Customers who had years to order are not compared with those who had weeks.
bool is_unfair(const Finding& finding) { return finding.groups.is_time() && !finding.options.within; }

/// The groups that came back most and least often, of those with enough customers to tell.
std::string groups_apart(const Finding& finding) {
  if (is_unfair(finding))
    return fmt::format(
        "By {}, later customers had less time to order: --within 90 compares everybody's first 90 days.",
        finding.groups.noun());
  constexpr std::uint64_t kEnough = 20;
  std::optional<std::uint32_t> best, weakest;
  const auto share = [&](std::uint32_t group) {
    const OrderFacts& facts = finding.orders.groups[group];
    return static_cast<double>(facts.came_back) / static_cast<double>(facts.customers);
  };
  for (std::uint32_t group = 0; group < finding.groups.count; ++group) {
    if (finding.orders.groups[group].customers < kEnough) continue;
    if (!best || share(group) > share(*best)) best = group;
    if (!weakest || share(group) < share(*weakest)) weakest = group;
  }
  if (!best) return "No group has 20 customers or more to compare.";
  const auto told = [&](std::uint32_t group, bool with_noun) {
    return (with_noun ? finding.groups.noun() + " " : "") + finding.groups.label(group);
  };
  const auto shares = [&](std::uint32_t group) {
    const OrderFacts& facts = finding.orders.groups[group];
    return fmt::format("{} of {}", analysis::per_cent(facts.came_back, facts.customers),
                       with_thousands(static_cast<std::int64_t>(facts.customers)));
  };
  if (best == weakest)
    return fmt::format("Only {} has 20 customers or more: {} came back.", told(*best, true), shares(*best));
  if (share(*best) == share(*weakest))
    return fmt::format("Every {} comes back alike.", finding.groups.noun());
  return fmt::format("Customers of {} came back most ({}), those of {} least ({}).", told(*best, true),
                     shares(*best), told(*weakest, false), shares(*weakest));
}

std::string value_text(const Finding& finding, std::int64_t value) {
  return finding.values.unit == result::Unit::count ? with_thousands(value)
                                                    : with_thousands(Decimal::from_units(value), 2);
}

struct Spread {
  std::int64_t least = 0, median = 0, most = 0;
};

Spread spread_of(const Finding& finding) {
  const Distribution& distribution = finding.distribution;
  if (distribution.is_banded) {
    std::vector<std::int64_t> values = finding.values.values;
    std::erase(values, result::kEmptyCell);
    const auto [least, most] = std::minmax_element(values.begin(), values.end());
    const Spread ends{*least, 0, *most};
    return {ends.least, *statistics::quantile_of(values, statistics::kHalf), ends.most};
  }
  std::vector<std::uint64_t> counts;
  for (std::size_t place = 0; place < distribution.places(); ++place)
    counts.push_back(distribution.all(place));
  const auto middle = static_cast<std::size_t>(*statistics::quantile_of_counts(counts, statistics::kHalf));
  return {distribution.values.front(), distribution.values[middle], distribution.values.back()};
}

/// The median number, and the most.
std::string spread(const Finding& finding) {
  const auto [least, median, most] = spread_of(finding);
  if (finding.options.count) {
    if (least == most)
      return fmt::format("All customers have the same {}: {}.", finding.noun(), value_text(finding, most));
    const std::string half =
        finding.values.unit == result::Unit::count
            ? fmt::format("{} {} or fewer", value_text(finding, median), finding.noun())
            : fmt::format("{} of {} or less", finding.noun(), value_text(finding, median));
    return fmt::format("Half of the customers have {}; the most is {}.", half, value_text(finding, most));
  }
  if (most == 1) return "Everybody placed one order.";
  if (least == most)
    return fmt::format("Everybody placed {}.", counted(static_cast<std::uint64_t>(most), "order"));
  return fmt::format("Half of them placed {} or fewer; the most frequent one placed {}.",
                     counted(static_cast<std::uint64_t>(median), "order"),
                     counted(static_cast<std::uint64_t>(most), "order"));
}

std::string largest_band(const Finding& finding) {
  std::size_t largest = 0;
  for (std::size_t place = 1; place < finding.distribution.places(); ++place)
    if (finding.distribution.all(place) > finding.distribution.all(largest)) largest = place;
  return fmt::format("Most customers, {} of {}, are in the band {}.",
                     with_thousands(static_cast<std::int64_t>(finding.distribution.all(largest))),
                     with_thousands(static_cast<std::int64_t>(finding.customers())),
                     finding.distribution.labels[largest]);
}

/// What the figure shows of the distribution: its first places, and what it gathers behind them.
struct Shown {
  std::size_t places = 0;
  std::string rest;  ///< the label of what is gathered; empty where nothing is
};

/// Bars 1, 2, 3, ... and "N or more" where the tail is long: places for 98% of the customers, up to a number
/// of them.
Shown shown_places(const Finding& finding, std::size_t most) {
  const Distribution& distribution = finding.distribution;
  if (distribution.is_banded) return {distribution.places(), ""};
  std::vector<std::uint64_t> counts;
  for (std::size_t place = 0; place < distribution.places(); ++place)
    counts.push_back(distribution.all(place));
  const analysis::FigureCutoff tail = analysis::cutoff_for(counts, most);
  if (!tail.gathers) return {tail.shown, ""};
  const std::string& next = distribution.labels[tail.shown];
  return {tail.shown, tail.shown + 1 == distribution.places() ? next : next + " or more"};
}

std::vector<double> shares_of(const Finding& finding, const std::vector<std::uint32_t>& groups,
                              const Shown& shown) {
  std::vector<double> shares(shown.places + (shown.rest.empty() ? 0 : 1));
  std::uint64_t all = 0;
  for (const std::uint32_t group : groups) {
    all += finding.customers(group);
    for (std::size_t place = 0; place < finding.distribution.places(); ++place)
      shares[std::min(place, shown.places)] +=
          static_cast<double>(finding.distribution.customers[group][place]);
  }
  for (double& share : shares) share /= static_cast<double>(all);
  return shares;
}

/// Numbers that nobody has stand between those that somebody has, so that the axis is even: only for orders
/// and such, where there are few.
Finding with_gaps(Finding finding) {
  Distribution& distribution = finding.distribution;
  const bool even = !distribution.is_banded && !distribution.values.empty() &&
                    distribution.values.front() >= 0 &&
                    distribution.values.back() - distribution.values.front() < 1'000;
  if (!even) return finding;
  const std::int64_t first = std::min<std::int64_t>(1, distribution.values.front());
  const auto places = static_cast<std::size_t>(distribution.values.back() - first + 1);
  std::vector<std::vector<std::uint64_t>> customers(finding.groups.count,
                                                    std::vector<std::uint64_t>(places + 1));
  for (std::uint32_t group = 0; group < finding.groups.count; ++group) {
    for (std::size_t i = 0; i < distribution.values.size(); ++i)
      customers[group][static_cast<std::size_t>(distribution.values[i] - first)] =
          distribution.customers[group][i];
  }
  distribution.customers = std::move(customers);
  distribution.labels.clear();
  for (std::size_t i = 0; i < places; ++i)
    distribution.labels.push_back(std::to_string(first + static_cast<std::int64_t>(i)));
  return finding;
}

result::Figure plain_figure(const Finding& finding) {
  const Shown shown = shown_places(finding, finding.options.count ? 25 : 12);
  TextArray labels;
  for (std::size_t place = 0; place < shown.places; ++place)
    labels.push_back(finding.distribution.labels[place]);
  if (!shown.rest.empty()) labels.push_back(shown.rest);
  result::Figure figure;
  if (!shown.rest.empty()) figure.gathered = shown.places;
  figure.marks.columns = {
      result::text_column(finding.values.name, finding.noun(), std::move(labels)),
      result::share_column("share", "Share of customers.", shares_of(finding, {0}, shown))};
  figure.label_title = finding.options.count ? finding.noun() : "orders placed";
  figure.value_title = "share of customers";
  figure.marks_in_order = finding.distribution.is_banded;
  if (!figure.marks_in_order && !finding.options.count) figure.noticed = {0};
  return figure;
}

/// Groups in their order, the largest ones where there are too many to read, and the others together.
std::vector<std::vector<std::uint32_t>> shown_groups(const Finding& finding) {
  const std::size_t most = finding.groups.is_time() ? 40 : 14;
  std::vector<std::uint32_t> groups;
  for (std::uint32_t group = 0; group < finding.groups.count; ++group)
    if (finding.customers(group) > 0) groups.push_back(group);
  std::vector<std::uint32_t> others;
  if (groups.size() > most) {
    std::stable_sort(groups.begin(), groups.end(), [&](std::uint32_t a, std::uint32_t b) {
      return finding.customers(a) > finding.customers(b);
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

result::Figure split_figure(const Finding& finding) {
  const Shown shown = shown_places(finding, 7);
  TextArray labels, totals;
  std::vector<std::vector<double>> shares(shown.places + (shown.rest.empty() ? 0 : 1));
  const auto rows = shown_groups(finding);
  for (const auto& groups : rows) {
    std::uint64_t customers = 0;
    for (const std::uint32_t group : groups) customers += finding.customers(group);
    labels.push_back(groups.size() == 1 ? finding.groups.label(groups.front())
                                        : fmt::format("other ({})", groups.size()));
    totals.push_back(counted(customers, "customer"));
    const std::vector<double> of_row = shares_of(finding, groups, shown);
    for (std::size_t i = 0; i < of_row.size(); ++i) shares[i].push_back(of_row[i]);
  }
  result::Figure figure;
  figure.kind = result::Figure::Kind::stacked_bars;
  figure.series_in_order = true;
  figure.marks.columns = {result::text_column(finding.groups.noun(), "The group.", std::move(labels)),
                          result::text_column("customers", "Customers of the group.", std::move(totals))};
  figure.totals = 1;
  figure.values.clear();
  for (std::size_t i = 0; i < shares.size(); ++i) {
    figure.values.push_back(figure.marks.columns.size());
    const std::string label = i < shown.places ? finding.distribution.labels[i] : shown.rest;
    const bool first_of_orders = i == 0 && !finding.options.count && label == "1";
    figure.marks.columns.push_back(result::share_column(first_of_orders ? "1 order"
                                                        : i == 0        ? label + " " + finding.noun()
                                                                        : label,
                                                        label, std::move(shares[i])));
  }
  figure.value_title = fmt::format("share of the customers of each {}", finding.groups.noun());
  return figure;
}

}  // namespace

std::vector<std::string> headline_of(const Finding& finding) {
  std::vector<std::string> headline = {came_back(finding)};
  if (finding.groups.is_split()) headline.push_back(groups_apart(finding));
  if (finding.customers() == 0) return headline;
  headline.push_back(finding.distribution.is_banded && !finding.options.count ? largest_band(finding)
                                                                              : spread(finding));
  return headline;
}

result::Figure figure_of(Finding finding, const std::vector<std::string>& headline) {
  finding = with_gaps(std::move(finding));
  result::Figure figure = finding.groups.is_split() ? split_figure(finding) : plain_figure(finding);
  figure.title = finding.groups.is_split() && !is_unfair(finding) ? headline[1]
                 : finding.options.count                          ? headline.back()
                                                                  : headline.front();
  figure.subtitle = fmt::format("Share of customers by {}{}; {}",
                                finding.options.count ? finding.noun() : "the number of orders they placed",
                                finding.in_window(), counted(finding.customers(), "customer"));
  return figure;
}

}  // namespace pear::frequency
