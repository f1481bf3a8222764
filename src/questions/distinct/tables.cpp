#include "questions/distinct/tables.hpp"

#include <algorithm>

#include <fmt/format.h>

#include "analysis/tables/table_builder.hpp"
#include "base/text.hpp"

namespace pear::distinct {
namespace {

/// The columns that identify the cell of a row, with names next to ids of products and customers.
template <class Builder, class CellOf>
void add_cells(const Counts& counts, Builder& builder, const CellOf& cell_of) {
  for (std::size_t i = 0; i < counts.keys.per.size(); ++i) {
    const expression::Tree& tree = counts.options.per[i];
    const expression::GroupKey& key = counts.keys.per[i];
    const auto code = [&](const auto& row) { return counts.keys.codes[i][cell_of(row)]; };
    builder.key(tree.name, fmt::format("One count for each {}.", tree.text), key, code);
    builder.names(counts.daybook, key, code);
  }
}

/// Cells with the same number of distinct values.
struct NumberRow {
  std::size_t number = 0;
  std::uint64_t cells = 0, so_far = 0;
};

}  // namespace

result::Table main_table(const Counts& counts) {
  const std::string noun = counts.counted_noun(2);
  const bool of_all = counts.options.per.empty();
  result::Table table{
      "",
      of_all ? fmt::format("Distinct {}", noun) : fmt::format("Distinct {} per {}", noun, counts.per_noun()),
      of_all ? "One row for everything."
             : fmt::format("One row for each {} with a purchase.", counts.per_noun()),
      {}};
  analysis::TableBuilder builder(table, counts.rows);
  add_cells(counts, builder, [](std::uint32_t cell) { return cell; });
  builder.count("distinct", fmt::format("Distinct {}.", noun),
                [&](std::uint32_t cell) { return counts.facts[cell].distinct; });
  builder.count("orders", "Orders with at least one of these lines.",
                [&](std::uint32_t cell) { return counts.facts[cell].orders; });
  builder.count("lines", "Lines that are not returns.",
                [&](std::uint32_t cell) { return counts.facts[cell].lines; });
  return table;
}

result::Table distribution_table(const Counts& counts) {
  const std::vector<std::uint64_t> cells = cells_by_number(counts.facts);
  std::vector<NumberRow> rows;
  std::uint64_t so_far = 0;
  for (std::size_t number = 0; number < cells.size(); ++number)
    if (cells[number] > 0) rows.push_back({number, cells[number], so_far += cells[number]});
  const std::string many = counts.per_plural(), noun = counts.counted_noun(2);
  const auto all = static_cast<double>(counts.rows.size());
  result::Table table{"distribution",
                      fmt::format("Distribution: how many {} have how many distinct {}", many, noun),
                      "One row for each number that occurs.",
                      {}};
  analysis::TableBuilder builder(table, rows);
  builder.count("distinct", fmt::format("Number of distinct {}.", noun),
                [](const NumberRow& row) { return row.number; });
  builder.count(counts.options.per.size() == 1 ? snake_case(many) : "combinations",
                fmt::format("How many {} have exactly this many.", many),
                [](const NumberRow& row) { return row.cells; });
  builder.share("share", "These as a share of all.",
                [&](const NumberRow& row) { return static_cast<double>(row.cells) / all; });
  builder.share("cumulative_share", "Share with this many or fewer.",
                [&](const NumberRow& row) { return static_cast<double>(row.so_far) / all; });
  if (table.rows() * 2 > counts.rows.size())
    table.most_shown = 0;  // hardly any two rows have the same number
  return table;
}

OrError<result::Table> members_table(const Counts& counts) {
  const bool fits = std::all_of(counts.members.begin(), counts.members.end(),
                                [](const Member& member) { return member.amount.total().has_value(); });
  if (!fits)
    return data_error(
        "the amounts of one row of the list add up to more than 922,337,203,685,477. Look for wrong prices.");
  const std::string each = counts.counted_noun(1);
  result::Table table{"list",
                      fmt::format("List of {}", counts.counted_noun(2)),
                      counts.options.per.empty()
                          ? fmt::format("One row for each {}.", each)
                          : fmt::format("One row for each {} of each {}.", each, counts.per_noun()),
                      {}};
  const expression::GroupKey& key = counts.keys.counted;
  const auto code = [](const Member& member) { return member.code; };
  analysis::TableBuilder builder(table, counts.members);
  add_cells(counts, builder, [](const Member& member) { return member.cell; });
  builder.key(counts.counted_name(), fmt::format("What is counted: {}.", counts.counted_name()), key, code)
      .always_shown = false;
  builder.names(counts.daybook, key, code);
  builder.date("first_date", "Date of the first order with it.",
               [](const Member& member) { return member.first_day; });
  builder.date("last_date", "Date of the last order with it.",
               [](const Member& member) { return member.last_day; });
  builder.count("orders", "Orders with it.", [](const Member& member) { return member.orders; });
  builder.money("amount", "Amount of these lines, net of returns.",
                [](const Member& member) { return analysis::in_units(member.amount); });
  if (!counts.options.per.empty()) table.most_shown = 10;
  return table;
}

}  // namespace pear::distinct
