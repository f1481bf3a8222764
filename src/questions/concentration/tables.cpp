#include "questions/concentration/tables.hpp"

#include <algorithm>
#include <cctype>
#include <cmath>
#include <memory>
#include <utility>

#include <fmt/format.h>
#include <tbb/parallel_for.h>

#include "analysis/member_column.hpp"
#include "analysis/wording.hpp"
#include "base/text.hpp"

namespace pear::concentration {
namespace {

/// The columns of --by, with the group of each row.
std::vector<result::TableColumn> group_columns(const RankedGroups& groups,
                                               const std::vector<std::uint32_t>& of_rows) {
  std::vector<result::TableColumn> columns;
  for (std::size_t i = 0; i < groups.keys.size(); ++i) {
    std::vector<std::uint32_t> codes;
    codes.reserve(of_rows.size());
    for (const std::uint32_t group : of_rows) codes.push_back(groups.codes[i][group]);
    columns.push_back(analysis::key_column(groups.names[i],
                                           fmt::format("{} of this ranking.", groups.names[i]),
                                           groups.keys[i], std::move(codes)));
  }
  return columns;
}

std::int64_t shown(const Finding& finding, std::int64_t units) {
  return finding.unit == result::Unit::count ? units / Decimal::kScale : units;
}

std::int64_t shown(const Finding& finding, const DecimalSum& sum) {
  return sum.total() ? shown(finding, sum.total()->units()) : result::kEmptyCell;
}

/// The first rank of each class, and the end: A, B, C.
std::vector<std::size_t> class_bounds(const Ranking& ranking, const std::vector<std::int64_t>& classes) {
  std::vector<std::size_t> bounds = {0};
  for (const std::int64_t end : classes) bounds.push_back(std::max(bounds.back(), ranking.members_for(end)));
  bounds.push_back(ranking.size());
  return bounds;
}

std::string class_name(std::size_t place) { return {static_cast<char>('A' + place)}; }

}  // namespace

std::string RankedGroups::label(std::size_t group) const {
  std::string label;
  for (std::size_t i = 0; i < keys.size(); ++i)
    label += (i == 0 ? "" : " / ") + expression::label_text(keys[i], codes[i][group]);
  return label;
}

std::string Finding::of_plural() const { return analysis::plural_of(analysis::noun_of(of_name)); }

namespace {

/// The columns of all rankings behind one another.
struct RankingRows {
  std::vector<std::uint32_t> groups, members, classes;
  std::vector<std::int64_t> ranks, figures;
  std::vector<double> shares, running, running_members;

  explicit RankingRows(std::size_t rows)
      : groups(rows),
        members(rows),
        classes(rows),
        ranks(rows),
        figures(rows),
        shares(rows),
        running(rows),
        running_members(rows) {}

  void fill(const Finding& finding, std::uint32_t group, std::size_t row, std::size_t rank,
            const std::vector<std::size_t>& bounds) {
    const Ranking& ranking = finding.groups.rankings[group];
    groups[row] = group;
    ranks[row] = static_cast<std::int64_t>(rank + 1);
    members[row] = ranking.members()[rank].member;
    figures[row] = shown(finding, ranking.members()[rank].units);
    shares[row] = ranking.share(rank);
    running[row] = ranking.running_share(rank);
    running_members[row] = static_cast<double>(rank + 1) / static_cast<double>(ranking.size());
    classes[row] = static_cast<std::uint32_t>(std::upper_bound(bounds.begin(), bounds.end() - 1, rank) -
                                              bounds.begin() - 1);
  }
};

RankingRows rows_of(const Finding& finding) {
  std::size_t size = 0;
  for (const Ranking& ranking : finding.groups.rankings) size += ranking.size();
  RankingRows rows(size);
  std::size_t begin = 0;
  for (std::uint32_t group = 0; group < finding.groups.rankings.size(); ++group) {
    const Ranking& ranking = finding.groups.rankings[group];
    const std::vector<std::size_t> bounds = class_bounds(ranking, finding.options.classes);
    tbb::parallel_for(tbb::blocked_range<std::size_t>(0, ranking.size(), 16'384), [&](const auto& run) {
      for (std::size_t rank = run.begin(); rank != run.end(); ++rank)
        rows.fill(finding, group, begin + rank, rank, bounds);
    });
    begin += ranking.size();
  }
  return rows;
}

}  // namespace

result::Table ranking_table(const Finding& finding) {
  auto [groups, members, classes, ranks, figures, shares, running, running_members] = rows_of(finding);
  auto names = std::make_shared<TextArray>();
  for (std::size_t i = 0; i <= finding.options.classes.size(); ++i) names->push_back(class_name(i));
  result::Table table{"", fmt::format("{} by {}", finding.of_plural(), finding.figure_name),
                      fmt::format("One row for each of the {}, the largest first.", finding.of_plural()),
                      group_columns(finding.groups, groups)};
  table.title[0] = static_cast<char>(std::toupper(static_cast<unsigned char>(table.title[0])));
  auto& columns = table.columns;
  columns.push_back(result::integer_column("rank", result::Unit::count,
                                           "Place by the figure, 1 being the largest.", std::move(ranks)));
  columns.push_back(analysis::key_column(
      finding.of_name, fmt::format("The {}.", analysis::noun_of(finding.of_name)), finding.of, members));
  columns.back().always_shown = false;
  analysis::add_names(finding.daybook, finding.of, members, columns);
  columns.push_back(result::integer_column(finding.figure_name, finding.unit,
                                           "The figure that is shared out.", std::move(figures)));
  columns.push_back(result::share_column("share", "Of the sum of all figures above 0.", std::move(shares)));
  columns.push_back(
      result::share_column("running_share", "Of this row and all above it.", std::move(running)));
  columns.push_back(result::share_column(
      "running_share_of_" + snake_case(finding.of_plural()),
      fmt::format("This row and all above it as a share of the {}.", finding.of_plural()),
      std::move(running_members)));
  columns.push_back(result::text_column("class", "A, B or C by running share.",
                                        result::CodedTexts{std::move(classes), std::move(names)}));
  return table;
}

result::Table classes_table(const Finding& finding) {
  std::vector<std::uint32_t> groups;
  std::vector<std::int64_t> counts, figures;
  std::vector<double> member_shares, shares;
  TextArray classes;
  for (std::uint32_t group = 0; group < finding.groups.rankings.size(); ++group) {
    const Ranking& ranking = finding.groups.rankings[group];
    const std::vector<std::size_t> bounds = class_bounds(ranking, finding.options.classes);
    for (std::size_t i = 0; i + 1 < bounds.size(); ++i) {
      DecimalSum sum;
      double share = 0;
      for (std::size_t rank = bounds[i]; rank < bounds[i + 1]; ++rank)
        sum.add(Decimal::from_units(ranking.members()[rank].units));
      const auto up_to = [&](std::size_t end) { return end == 0 ? 0.0 : ranking.running_share(end - 1); };
      share = up_to(bounds[i + 1]) - up_to(bounds[i]);
      groups.push_back(group);
      classes.push_back(class_name(i));
      counts.push_back(static_cast<std::int64_t>(bounds[i + 1] - bounds[i]));
      member_shares.push_back(static_cast<double>(counts.back()) / static_cast<double>(ranking.size()));
      figures.push_back(shown(finding, sum));
      shares.push_back(share);
    }
  }
  const std::string many = finding.of_plural();
  result::Table table{"classes", "Classes", "One row for each class.", group_columns(finding.groups, groups)};
  auto& columns = table.columns;
  columns.push_back(result::text_column(
      "class", "A are the largest that bring the first share, B the next, C the rest.", std::move(classes)));
  columns.push_back(result::integer_column(snake_case(many), result::Unit::count,
                                           fmt::format("How many {} are in it.", many), std::move(counts)));
  columns.push_back(result::share_column("share_of_" + snake_case(many),
                                         fmt::format("These as a share of all {}.", many),
                                         std::move(member_shares)));
  columns.push_back(
      result::integer_column(finding.figure_name, finding.unit, "What they bring.", std::move(figures)));
  columns.push_back(
      result::share_column("share", "This as a share of all figures above 0.", std::move(shares)));
  return table;
}

result::Table summary_table(const Finding& finding, const RankedGroups& groups, const std::string& part) {
  std::vector<std::uint32_t> of_rows;
  std::vector<std::int64_t> members, figures, needed, ginis;
  std::vector<double> largest, needed_shares;
  for (std::uint32_t group = 0; group < groups.rankings.size(); ++group) {
    const Ranking& ranking = groups.rankings[group];
    DecimalSum all = ranking.positive();
    all.add(ranking.negative());
    of_rows.push_back(group);
    members.push_back(static_cast<std::int64_t>(ranking.size()));
    figures.push_back(shown(finding, all));
    largest.push_back(ranking.share_of_largest(0.2));
    needed.push_back(static_cast<std::int64_t>(ranking.members_for(80 * Decimal::kScale)));
    needed_shares.push_back(static_cast<double>(needed.back()) / static_cast<double>(ranking.size()));
    const double gini = ranking.gini();
    ginis.push_back(gini == gini ? static_cast<std::int64_t>(std::llround(gini * Decimal::kScale))
                                 : result::kEmptyCell);
  }
  const std::string many = finding.of_plural();
  result::Table table{part, part == "compare" ? "Whether it grows" : "How few bring how much",
                      groups.is_split() ? "One row for each ranking." : "One row.",
                      group_columns(groups, of_rows)};
  auto& columns = table.columns;
  columns.push_back(result::integer_column(snake_case(many), result::Unit::count,
                                           fmt::format("How many {} there are.", many), std::move(members)));
  columns.push_back(
      result::integer_column(finding.figure_name, finding.unit, "What all bring.", std::move(figures)));
  columns.push_back(result::share_column(
      "largest_20_share", "What the largest 20% bring, of all figures above 0.", std::move(largest)));
  columns.push_back(result::integer_column("for_80", result::Unit::count,
                                           fmt::format("How many {} it takes to bring 80%.", many),
                                           std::move(needed)));
  columns.push_back(result::share_column("for_80_share", fmt::format("These as a share of all {}.", many),
                                         std::move(needed_shares)));
  columns.push_back(result::integer_column(
      "gini", result::Unit::number,
      "Gini coefficient: 0 where all bring the same, near 1 where one brings all.", std::move(ginis)));
  columns.back().places = 2;
  return table;
}

}  // namespace pear::concentration
