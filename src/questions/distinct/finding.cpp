#include "questions/distinct/finding.hpp"

#include <algorithm>
#include <utility>

#include <fmt/format.h>

#include "analysis/figure_cutoff.hpp"
#include "analysis/member_column.hpp"
#include "analysis/time_keys.hpp"
#include "analysis/wording.hpp"
#include "base/text.hpp"
#include "statistics/quantile.hpp"

namespace pear::distinct {
namespace {

constexpr std::size_t kMostBars = 20;

std::vector<std::uint32_t> codes_of_rows(const Finding& finding, std::size_t key,
                                         const std::vector<std::uint32_t>& cells) {
  std::vector<std::uint32_t> codes;
  codes.reserve(cells.size());
  for (const std::uint32_t cell : cells) codes.push_back(finding.keys.codes[key][cell]);
  return codes;
}

/// The columns that say of which cell a row is, with names beside ids of products and customers.
std::vector<result::TableColumn> cell_columns(const Finding& finding,
                                              const std::vector<std::uint32_t>& cells) {
  std::vector<result::TableColumn> columns;
  for (std::size_t i = 0; i < finding.keys.per.size(); ++i) {
    const expression::Tree& tree = finding.options.per[i];
    const expression::GroupKey& key = finding.keys.per[i];
    const std::vector<std::uint32_t> codes = codes_of_rows(finding, i, cells);
    columns.push_back(
        analysis::key_column(tree.name, fmt::format("Of what it is counted: {}.", tree.text), key, codes));
    analysis::add_names(finding.daybook, key, codes, columns);
  }
  return columns;
}

/// How many cells have each number, from 0 on.
std::vector<std::uint64_t> cells_by_number(const std::vector<CellFacts>& facts) {
  std::vector<std::uint64_t> counts(1);
  for (const CellFacts& cell : facts) {
    if (cell.lines == 0) continue;
    if (counts.size() <= cell.distinct) counts.resize(cell.distinct + 1);
    ++counts[cell.distinct];
  }
  return counts;
}

bool shows_times(const Finding& finding) {
  return finding.keys.per.size() == 1 && analysis::is_time(finding.keys.per.front());
}

result::Figure top_figure(const Finding& finding) {
  const bool times = shows_times(finding);
  const std::size_t shown = times ? finding.rows.size() : std::min(finding.rows.size(), kMostBars);
  TextArray labels;
  std::vector<std::int64_t> values;
  for (std::size_t i = 0; i < shown; ++i) {
    labels.push_back(finding.label(finding.rows[i]));
    values.push_back(finding.facts[finding.rows[i]].distinct);
  }
  result::Figure figure;
  figure.kind = times ? result::Figure::Kind::bars : result::Figure::Kind::ranked_bars;
  const std::string& source = times ? finding.keys.per.front().source : "";
  if (source == "month" || source == "first_month") figure.axis = result::Figure::Axis::months;
  const std::string rows =
      shown < finding.rows.size()
          ? fmt::format("the {} with most of {}", shown,
                        counted(finding.rows.size(), finding.per_noun(), finding.per_plural()))
          : counted(finding.rows.size(), finding.per_noun(), finding.per_plural());
  figure.subtitle =
      fmt::format("Different {} of each {}; {}", finding.counted_noun(2), finding.per_noun(), rows);
  figure.marks.columns = {
      result::text_column(finding.per_noun(), "Of what it is counted.", std::move(labels)),
      result::integer_column("distinct", result::Unit::count, "Different values.", std::move(values))};
  figure.value_title = fmt::format("different {}", finding.counted_noun(2));
  return figure;
}

result::Figure distribution_figure(const Finding& finding) {
  const std::vector<std::uint64_t> counts = cells_by_number(finding.facts);
  const std::size_t first = counts.front() > 0 ? 0 : 1;
  const analysis::FigureCutoff tail =
      analysis::cutoff_for({counts.begin() + static_cast<std::ptrdiff_t>(first), counts.end()}, 30);
  TextArray labels;
  std::vector<double> shares;
  double rest = 1;
  const auto all = static_cast<double>(finding.rows.size());
  for (std::size_t i = first; i < first + tail.shown; ++i) {
    labels.push_back(std::to_string(i));
    shares.push_back(static_cast<double>(counts[i]) / all);
    rest -= shares.back();
  }
  if (tail.gathers) {
    labels.push_back(fmt::format("{} or more", first + tail.shown));
    shares.push_back(rest);
  }
  result::Figure figure;
  if (tail.gathers) figure.gathered = tail.shown;
  figure.subtitle = fmt::format("Share of {} by the number of different {}; {}", finding.per_plural(),
                                finding.counted_noun(2),
                                counted(finding.rows.size(), finding.per_noun(), finding.per_plural()));
  figure.marks.columns = {result::text_column("distinct", "Number of different values.", std::move(labels)),
                          result::share_column("share", "Share of all.", std::move(shares))};
  figure.label_title = fmt::format("different {}", finding.counted_noun(2));
  figure.value_title = fmt::format("share of {}", finding.per_plural());
  return figure;
}

}  // namespace

std::string Finding::counted_name() const {
  return options.count ? options.count->name : std::string(daybook::role::kProductId);
}

std::string Finding::counted_noun(std::uint64_t count) const {
  const std::string noun = analysis::noun_of(counted_name());
  if (options.count && options.count->root.op != expression::Op::column &&
      options.count->name == options.count->text)
    return count == 1 ? fmt::format("value of {}", noun) : fmt::format("values of {}", noun);
  return count == 1 ? noun : analysis::plural_of(noun);
}

std::string Finding::per_noun() const {
  std::string noun;
  for (const expression::Tree& tree : options.per)
    noun += (noun.empty() ? "" : " and ") + analysis::noun_of(tree.name);
  return noun;
}

std::string Finding::per_plural() const {
  return options.per.size() == 1 ? analysis::plural_of(per_noun()) : "combinations of " + per_noun();
}

std::string Finding::label(std::uint32_t cell) const {
  std::string label;
  for (std::size_t i = 0; i < keys.per.size(); ++i)
    label += (i == 0 ? "" : " / ") + analysis::label_with_name(daybook, keys.per[i], keys.codes[i][cell]);
  return label;
}

std::vector<std::uint32_t> ordered_rows(const Keys& keys, const std::vector<CellFacts>& facts) {
  const std::vector<std::uint64_t> counts = cells_by_number(facts);
  const bool times = keys.per.size() == 1 && analysis::is_time(keys.per.front());
  std::vector<std::uint64_t> next(counts.size());  // by number, where its next cell is put
  std::uint64_t rows = 0;
  for (std::size_t number = counts.size(); number-- > 0;)
    next[number] = std::exchange(rows, rows + counts[number]);
  std::vector<std::uint32_t> ordered(rows);
  std::uint64_t row = 0;
  for (std::uint32_t cell = 0; cell < facts.size(); ++cell)
    if (facts[cell].lines > 0) ordered[times ? row++ : next[facts[cell].distinct]++] = cell;
  return ordered;
}

result::Table main_table(const Finding& finding) {
  std::vector<std::int64_t> distinct, orders, lines;
  for (const std::uint32_t cell : finding.rows) {
    distinct.push_back(finding.facts[cell].distinct);
    orders.push_back(finding.facts[cell].orders);
    lines.push_back(finding.facts[cell].lines);
  }
  const std::string noun = finding.counted_noun(2);
  result::Table table{
      "",
      finding.options.per.empty() ? fmt::format("Different {}", noun)
                                  : fmt::format("Different {} per {}", noun, finding.per_noun()),
      finding.options.per.empty() ? "One row for all."
                                  : fmt::format("One row for each {} with a purchase.", finding.per_noun()),
      cell_columns(finding, finding.rows)};
  table.columns.push_back(result::integer_column("distinct", result::Unit::count,
                                                 fmt::format("Different {}, each counted once.", noun),
                                                 std::move(distinct)));
  table.columns.push_back(result::integer_column(
      "orders", result::Unit::count, "Orders with at least one of these lines.", std::move(orders)));
  table.columns.push_back(
      result::integer_column("lines", result::Unit::count, "Lines that are not returns.", std::move(lines)));
  return table;
}

result::Table distribution_table(const Finding& finding) {
  const std::vector<std::uint64_t> counts = cells_by_number(finding.facts);
  const std::string many = finding.per_plural();
  std::vector<std::int64_t> numbers, cells;
  std::vector<double> shares, running;
  std::uint64_t so_far = 0;
  for (std::size_t number = 0; number < counts.size(); ++number) {
    if (counts[number] == 0) continue;
    so_far += counts[number];
    numbers.push_back(static_cast<std::int64_t>(number));
    cells.push_back(static_cast<std::int64_t>(counts[number]));
    shares.push_back(static_cast<double>(counts[number]) / static_cast<double>(finding.rows.size()));
    running.push_back(static_cast<double>(so_far) / static_cast<double>(finding.rows.size()));
  }
  result::Table table{"distribution",
                      fmt::format("How many {} have how many different {}", many, finding.counted_noun(2)),
                      "One row for each number that occurs.",
                      {}};
  table.columns = {
      result::integer_column("distinct", result::Unit::count,
                             fmt::format("Number of different {}.", finding.counted_noun(2)),
                             std::move(numbers)),
      result::integer_column(finding.options.per.size() == 1 ? snake_case(many) : "combinations",
                             result::Unit::count, fmt::format("How many {} have exactly so many.", many),
                             std::move(cells)),
      result::share_column("share", "These as a share of all.", std::move(shares)),
      result::share_column("running_share", "Share with so many or fewer.", std::move(running))};
  if (table.rows() * 2 > finding.rows.size()) table.most_shown = 0;  // hardly two rows have the same number
  return table;
}

OrError<result::Table> members_table(const Finding& finding, const std::vector<Member>& members) {
  std::vector<std::uint32_t> cells, codes;
  std::vector<std::int64_t> first, last, orders, amounts;
  for (const Member& member : members) {
    const auto amount = member.amount.total();
    if (!amount)
      return data_error(
          "the amounts of one row of the list come to more than 922,337,203,685,477. Look for wrong prices.");
    cells.push_back(member.cell);
    codes.push_back(member.code);
    first.push_back(member.first_day);
    last.push_back(member.last_day);
    orders.push_back(member.orders);
    amounts.push_back(amount->units());
  }
  result::Table table{
      "list", fmt::format("Which {} they are", finding.counted_noun(2)),
      finding.options.per.empty()
          ? fmt::format("One row for each {}.", finding.counted_noun(1))
          : fmt::format("One row for each {} of each {}.", finding.counted_noun(1), finding.per_noun()),
      cell_columns(finding, cells)};
  const expression::GroupKey& key = finding.keys.counted;
  table.columns.push_back(analysis::key_column(
      finding.counted_name(), fmt::format("What is counted: {}.", finding.counted_name()), key, codes));
  table.columns.back().always_shown = false;
  analysis::add_names(finding.daybook, key, codes, table.columns);
  table.columns.push_back(result::integer_column("first_date", result::Unit::date,
                                                 "Date of the first order with it.", std::move(first)));
  table.columns.push_back(result::integer_column("last_date", result::Unit::date,
                                                 "Date of the last order with it.", std::move(last)));
  table.columns.push_back(
      result::integer_column("orders", result::Unit::count, "Orders with it.", std::move(orders)));
  table.columns.push_back(result::integer_column(
      "amount", result::Unit::money, "Amount of these lines, returns taken off.", std::move(amounts)));
  if (!finding.options.per.empty()) table.most_shown = 10;
  return table;
}

std::vector<std::string> headline_of(const Finding& finding) {
  if (finding.rows.empty()) return {"Nothing was bought: all lines are returns."};
  const auto orders_and_lines = [](const CellFacts& facts) {
    return fmt::format("{} of {}", counted(facts.lines, "line"), counted(facts.orders, "order"));
  };
  if (finding.options.per.empty()) {
    const CellFacts& facts = finding.facts[finding.rows.front()];
    return {fmt::format("{} different {}, in {}.", with_thousands(std::int64_t{facts.distinct}),
                        finding.counted_noun(facts.distinct), orders_and_lines(facts))};
  }
  const std::vector<std::uint64_t> counts = cells_by_number(finding.facts);
  const std::uint32_t best = *std::find_if(finding.rows.begin(), finding.rows.end(), [&](std::uint32_t cell) {
    return finding.facts[cell].distinct + 1 == counts.size();
  });
  const CellFacts& most = finding.facts[best];
  const std::uint64_t same = counts.back();
  const std::string many = finding.per_plural();
  if (finding.rows.size() == 1)
    return {fmt::format("{}: {} different {}, in {}.", finding.label(best), most.distinct,
                        finding.counted_noun(most.distinct), orders_and_lines(most))};
  if (same == finding.rows.size())
    return {fmt::format("All {} have {} different {}.",
                        counted(finding.rows.size(), finding.per_noun(), many), most.distinct,
                        finding.counted_noun(most.distinct))};
  const std::int64_t median = *statistics::quantile_of_counts(counts, statistics::kHalf);
  const std::string who = same == 1
                              ? fmt::format("{} has most", finding.label(best))
                              : fmt::format("{} have most", with_thousands(static_cast<std::int64_t>(same)));
  return {fmt::format("Half of the {} have {} different {} or fewer; {}: {}{}.",
                      counted(finding.rows.size(), finding.per_noun(), many), with_thousands(median),
                      finding.counted_noun(static_cast<std::uint64_t>(median)), who,
                      with_thousands(std::int64_t{most.distinct}),
                      same == 1 ? ", in " + orders_and_lines(most) : "")};
}

std::vector<result::Figure> figures_of(const Finding& finding) {
  if (finding.rows.size() < 2) return {};
  constexpr std::size_t kFew = 100;
  const bool of_customers = finding.keys.cells_are_of_customers();
  result::Figure figure = !of_customers && (finding.rows.size() <= kFew || shows_times(finding))
                              ? top_figure(finding)
                              : distribution_figure(finding);
  figure.title = headline_of(finding).front();
  return {figure};
}

}  // namespace pear::distinct
