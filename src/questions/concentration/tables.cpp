#include "questions/concentration/tables.hpp"

#include <algorithm>
#include <cctype>
#include <cmath>
#include <memory>
#include <utility>

#include <fmt/format.h>

#include "analysis/tables/table_builder.hpp"
#include "analysis/wording.hpp"
#include "base/text.hpp"

namespace pear::concentration {
namespace {

/// The columns of --by, with the group of each row.
template <class Builder, class GroupOf>
void add_groups(const RankedGroups& groups, Builder& builder, const GroupOf& group_of) {
  for (std::size_t i = 0; i < groups.keys.size(); ++i)
    builder.key(groups.names[i], fmt::format("{} of this ranking.", groups.names[i]), groups.keys[i],
                [&](const auto& row) { return groups.codes[i][group_of(row)]; });
}

std::int64_t shown(const Counts& counts, std::int64_t units) {
  return counts.unit == result::Unit::count ? units / Decimal::kScale : units;
}

std::int64_t shown(const Counts& counts, const DecimalSum& sum) {
  return sum.total() ? shown(counts, sum.total()->units()) : result::kEmptyCell;
}

/// The first rank of each class, and the end: A, B, C.
std::vector<std::size_t> class_bounds(const Ranking& ranking, const std::vector<std::int64_t>& classes) {
  std::vector<std::size_t> bounds = {0};
  for (const std::int64_t end : classes) bounds.push_back(std::max(bounds.back(), ranking.members_for(end)));
  bounds.push_back(ranking.size());
  return bounds;
}

std::string class_name(std::size_t place) { return {static_cast<char>('A' + place)}; }

/// A member of a ranking.
struct RankRow {
  std::uint32_t group = 0;
  std::size_t rank = 0;        ///< from 0
  std::uint32_t of_class = 0;  ///< kNoText without a total
};

std::vector<RankRow> rank_rows(const Counts& counts) {
  std::vector<RankRow> rows;
  for (std::uint32_t group = 0; group < counts.groups.rankings.size(); ++group) {
    const Ranking& ranking = counts.groups.rankings[group];
    const std::vector<std::size_t> bounds = class_bounds(ranking, counts.options.classes);
    std::uint32_t of_class = 0;
    for (std::size_t rank = 0; rank < ranking.size(); ++rank) {
      while (rank >= bounds[of_class + 1]) ++of_class;
      rows.push_back({group, rank, ranking.has_total() ? of_class : result::CodedTexts::kNoText});
    }
  }
  return rows;
}

/// A class of a ranking.
struct ClassRow {
  std::uint32_t group = 0;
  std::size_t of_class = 0, begin = 0, end = 0;  ///< its ranks
};

std::vector<ClassRow> class_rows(const Counts& counts) {
  std::vector<ClassRow> rows;
  for (std::uint32_t group = 0; group < counts.groups.rankings.size(); ++group) {
    if (!counts.groups.rankings[group].has_total()) continue;
    const std::vector<std::size_t> bounds =
        class_bounds(counts.groups.rankings[group], counts.options.classes);
    for (std::size_t i = 0; i + 1 < bounds.size(); ++i) rows.push_back({group, i, bounds[i], bounds[i + 1]});
  }
  return rows;
}

DecimalSum sum_of(const Ranking& ranking, std::size_t begin, std::size_t end) {
  DecimalSum sum;
  for (std::size_t rank = begin; rank < end; ++rank)
    sum.add(Decimal::from_units(ranking.members()[rank].units));
  return sum;
}

double share_of(const Ranking& ranking, std::size_t begin, std::size_t end) {
  const auto up_to = [&](std::size_t rank) { return rank == 0 ? 0.0 : ranking.cumulative_share(rank - 1); };
  return up_to(end) - up_to(begin);
}

double part(std::size_t members, const Ranking& ranking) {
  return static_cast<double>(members) / static_cast<double>(ranking.size());
}

}  // namespace

result::Table ranking_table(const Counts& counts) {
  const std::vector<RankRow> rows = rank_rows(counts);
  const auto ranking = [&](const RankRow& row) -> const Ranking& {
    return counts.groups.rankings[row.group];
  };
  const auto member = [&](const RankRow& row) { return ranking(row).members()[row.rank].member; };
  const std::string many = counts.of_plural();
  auto names = std::make_shared<TextArray>();
  for (std::size_t i = 0; i <= counts.options.classes.size(); ++i) names->push_back(class_name(i));
  result::Table table{"",
                      fmt::format("{} by {}", many, counts.figure_name),
                      fmt::format("One row for each of the {}, the largest first.", many),
                      {}};
  table.title[0] = static_cast<char>(std::toupper(static_cast<unsigned char>(table.title[0])));
  analysis::TableBuilder builder(table, rows);
  add_groups(counts.groups, builder, [](const RankRow& row) { return row.group; });
  builder.count("rank", "Rank by the figure; 1 is the largest.",
                [](const RankRow& row) { return row.rank + 1; });
  builder.key(counts.of_name, fmt::format("The {}.", analysis::noun_of(counts.of_name)), counts.of, member)
      .always_shown = false;
  builder.names(counts.daybook, counts.of, member);
  builder.integer(counts.unit, counts.figure_name, "The figure that is ranked.",
                  [&](const RankRow& row) { return shown(counts, ranking(row).members()[row.rank].units); });
  builder.share("share", "Share of the sum of all figures above 0.",
                [&](const RankRow& row) { return ranking(row).share(row.rank); });
  builder.share("cumulative_share", "Cumulative share of this row and all above it.",
                [&](const RankRow& row) { return ranking(row).cumulative_share(row.rank); });
  builder.share("cumulative_share_of_" + snake_case(many),
                fmt::format("This row and all above it as a share of the {}.", many),
                [&](const RankRow& row) { return part(row.rank + 1, ranking(row)); });
  builder.add(result::text_column(
      "class", "A, B or C by cumulative share.",
      result::CodedTexts{builder.codes([](const RankRow& row) { return row.of_class; }), std::move(names)}));
  return table;
}

result::Table classes_table(const Counts& counts) {
  const std::vector<ClassRow> rows = class_rows(counts);
  const auto ranking = [&](const ClassRow& row) -> const Ranking& {
    return counts.groups.rankings[row.group];
  };
  const std::string many = counts.of_plural();
  result::Table table{"classes", "Classes", "One row for each class.", {}};
  analysis::TableBuilder builder(table, rows);
  add_groups(counts.groups, builder, [](const ClassRow& row) { return row.group; });
  builder.text("class", "A: the largest, up to the first share; B: the next; C: the rest.",
               [](const ClassRow& row) { return class_name(row.of_class); });
  builder.count(snake_case(many), fmt::format("The number of {} in it.", many),
                [](const ClassRow& row) { return row.end - row.begin; });
  builder.share("share_of_" + snake_case(many), fmt::format("These as a share of all {}.", many),
                [&](const ClassRow& row) { return part(row.end - row.begin, ranking(row)); });
  builder.integer(counts.unit, counts.figure_name, "Their total.", [&](const ClassRow& row) {
    return shown(counts, sum_of(ranking(row), row.begin, row.end));
  });
  builder.share("share", "This as a share of all figures above 0.",
                [&](const ClassRow& row) { return share_of(ranking(row), row.begin, row.end); });
  return table;
}

result::Table summary_table(const Counts& counts, const RankedGroups& groups, const std::string& part_name) {
  const std::string many = counts.of_plural();
  const auto needed = [](const Ranking& row) -> std::int64_t {
    return row.has_total() ? static_cast<std::int64_t>(row.members_for(80 * Decimal::kScale))
                           : result::kEmptyCell;
  };
  result::Table table{part_name,
                      part_name == "compare" ? "Change of concentration" : "Concentration",
                      groups.is_split() ? "One row for each ranking." : "One row.",
                      {}};
  analysis::TableBuilder builder(table, groups.rankings);
  add_groups(groups, builder,
             [&](const Ranking& row) { return static_cast<std::size_t>(&row - groups.rankings.data()); });
  builder.count(snake_case(many), fmt::format("The number of {}.", many),
                [](const Ranking& row) { return row.size(); });
  builder.integer(counts.unit, counts.figure_name, "The total.", [&](const Ranking& row) {
    DecimalSum all = row.positive();
    all.add(row.negative());
    return shown(counts, all);
  });
  builder.share("largest_20_share", "Share of the largest 20% in all figures above 0.",
                [](const Ranking& row) { return row.share_of_largest(0.2); });
  builder.count("for_80", fmt::format("How many {} account for 80%.", many), needed);
  builder.share("for_80_share", fmt::format("These as a share of all {}.", many), [&](const Ranking& row) {
    return row.has_total() ? part(row.members_for(80 * Decimal::kScale), row) : std::nan("");
  });
  builder.number("gini", "Gini coefficient: 0 if all have the same, near 1 if one has everything.", 2,
                 [](const Ranking& row) { return row.gini(); });
  return table;
}

}  // namespace pear::concentration
