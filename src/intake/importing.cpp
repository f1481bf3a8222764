#include "intake/importing.hpp"

#include <algorithm>

#include <fmt/format.h>

#include "base/text.hpp"
#include "expression/expression.hpp"
#include "intake/clean/customer_sample.hpp"
#include "intake/clean/leave_out_rows.hpp"
#include "intake/clean/repeated_orders.hpp"
#include "intake/clean/shared_values.hpp"
#include "intake/join/nest_lines.hpp"
#include "intake/join/price_list.hpp"
#include "intake/join/rows_without_lines.hpp"
#include "intake/join/value_groups.hpp"

namespace pear::intake {
namespace {

OrError<std::vector<std::uint8_t>> kept_by(const Requirement& rule, const expression::RowView& view) {
  const auto in_rule = [&](const Error& error) {
    return data_error(fmt::format("[[require]] in {}: {}", to_text(rule.table), error.message));
  };
  auto condition = expression::Expression::compile_condition(rule.condition, view);
  if (!condition) return in_rule(condition.error());
  auto rows = expression::rows_where(*condition, view);
  if (!rows) return in_rule(rows.error());
  return rows;
}

/// Rejected rows show the first column that a rule names.
std::string first_column(const Requirement& rule, const expression::RowView& view) {
  const auto condition = expression::Expression::compile_condition(rule.condition, view);
  if (!condition || condition->columns().empty()) return "";
  return view.columns[*condition->columns().begin()].name;
}

void count_required(RawTable& table, const std::vector<std::uint8_t>& stays) {
  for (std::size_t row = 0; row < stays.size(); ++row)
    if (stays[row] == 0) ++table.sources[table.source_of(row)].required_away;
}

bool contains(const Kinds& kinds, TableKind kind) {
  return std::find(kinds.begin(), kinds.end(), kind) != kinds.end();
}

void note_decisions(const IntakePlan& plan, Imported& imported) {
  const bool single = imported.sources.size() == 1;
  for (const SourceAccount& source : imported.sources) {
    std::vector<std::string> notes = source.notes;
    for (const UncomputedValues& values : source.uncomputed)
      notes.push_back(fmt::format("{} is empty in {}, where it cannot be computed as {}.", values.column,
                                  counted(values.rows, "row"), values.expression));
    for (const std::string& note : notes)
      imported.notes.push_back(single ? note : fmt::format("{}: {}", source.record.name, note));
  }
  const auto note = [&](std::uint64_t count, std::string_view text) {
    if (count > 0) imported.notes.push_back(fmt::format("{} {}", counted(count, "order"), text));
  };
  const daybook::BuiltDaybook& built = imported.built;
  if (imported.turned > 0)
    imported.notes.push_back(
        fmt::format("{} by [returns] condition had a positive quantity and amount; both are now negative.",
                    counted(imported.turned, "return")));
  if (!plan.fee_condition.empty())
    imported.notes.push_back(fmt::format(
        "{} by [fees] condition: {} in all.", counted(imported.fees, "line is a fee", "lines are fees"),
        imported.fee_amount.total() ? with_thousands(*imported.fee_amount.total()) : "too much"));
  note(built.orders_with_two_dates,
       "with lines of different dates; the earliest is used for the whole order.");
  note(built.shared_order_ids,
       "under an id that another customer has too; each customer's lines are a separate order.");
  for (const daybook::NearMiss& miss : built.near_misses)
    imported.notes.push_back(fmt::format(
        "{} is the same on all lines of {:.1f}% of the {}s; it is kept per {}. [levels] {} = \"{}\" would "
        "give each {} its latest value.",
        miss.column, 100 * miss.share, daybook::to_text(miss.level), daybook::to_text(miss.kept_at),
        miss.column, daybook::to_text(miss.level), daybook::to_text(miss.level)));
  for (const daybook::SettledColumn& settled : built.settled)
    imported.notes.push_back(fmt::format("{} had more than one {}; the latest is used, as [levels] requests.",
                                         counted(settled.members, daybook::to_text(settled.level)),
                                         settled.column));
}

}  // namespace

void Importing::unite(const Kinds& kinds) {
  std::vector<RawTable*> present;
  for (const TableKind kind : kinds)
    if (auto& table = table_of(tables, kind)) present.push_back(&*table);
  UsualSpellings found;
  if (facts == nullptr) {
    Spellings spellings(plan_);
    for (const RawTable* table : present) spellings.count(*table);
    found = spellings.take_usual();
  }
  unify_spelling(facts == nullptr ? found : facts->spelling, present, log_);
  merge_customers(plan_, present, log_);
}

void Importing::find_shared_ids(const Kinds& kinds, RowFacts& found) {
  unite(kinds);
  for (const TableKind kind : kinds)
    if (const auto& table = table_of(tables, kind)) found.shares_order_ids[kind] |= ids_are_shared(*table);
}

OrError<void> Importing::clean(const Kinds& kinds) {
  unite(kinds);
  for (const TableKind kind : kinds) {
    auto& table = table_of(tables, kind);
    if (!table || !plan_.replace_orders || (kind != TableKind::lines && kind != TableKind::orders)) continue;
    replace_repeated_orders(
        *table, facts == nullptr ? ids_are_shared(*table) : facts->shares_order_ids.at(kind), log_);
  }
  for (std::size_t i = 0; i < plan_.duplicates.size(); ++i) {
    const DuplicateRule& rule = plan_.duplicates[i];
    if (contains(kinds, rule.table))
      PEAR_TRY(drop_duplicates(rule, i, *table_of(tables, rule.table), imported_.duplicates));
  }
  return log_.outcome();
}

OrError<void> Importing::settle(const Kinds& kinds) {
  auto& customers = table_of(tables, TableKind::customers);
  if (contains(kinds, TableKind::customers) && customers &&
      customers->find(daybook::role::kCustomerId) != nullptr) {
    PEAR_ASSIGN(imported_.changed_customers, keep_newest_customers(*customers, plan_.latest_customer_by));
  }
  for (const TableKind kind :
       {TableKind::orders, TableKind::products, TableKind::customers, TableKind::prices}) {
    auto& table = table_of(tables, kind);
    if (table && contains(kinds, kind)) PEAR_TRY(require(kind, *table));
  }
  return {};
}

OrError<JoinedLines> Importing::join() {
  PEAR_ASSIGN(JoinedLines lines, JoinedLines::make(plan_, std::move(tables), log_));
  note_left(lines,
            "no line has a row in orders: the two tables do not belong together, or [joins] must name other "
            "keys.");
  if (plan_.sample > 0) {
    keep_sampled(plan_.sample, lines, log_);
    note_left(lines,
              fmt::format("the sample of 1 in {} customers contains none of those that have lines. Take a "
                          "larger sample, such as 1/{}.",
                          plan_.sample, std::max(2U, plan_.sample / 10)));
  }
  PEAR_TRY(look_up_prices(plan_, lines));
  PEAR_ASSIGN(imported_.ungrouped, add_groups(plan_, lines));
  return lines;
}

OrError<void> Importing::find_whole_bands(RowFacts& found) {
  PEAR_ASSIGN(JoinedLines lines, join());
  for (const Band& band : plan_.bands) {
    PEAR_ASSIGN(const bool whole, is_whole(band, lines));
    bool& all = found.whole_bands.try_emplace(band.name, true).first->second;
    all &= whole;
  }
  return {};
}

OrError<void> Importing::add_bands(JoinedLines& lines) {
  for (const Band& band : plan_.bands) {
    bool whole = false;
    if (facts == nullptr) {
      PEAR_ASSIGN(whole, is_whole(band, lines));
    } else {
      whole = facts->whole_bands.at(band.name);
    }
    PEAR_TRY(add_band(band, whole, lines));
  }
  return {};
}

OrError<daybook::LineTable> Importing::prepare() {
  PEAR_ASSIGN(JoinedLines lines, join());
  PEAR_TRY(add_bands(lines));
  PEAR_TRY(exclude_lines(lines));
  PEAR_TRY(require_lines(lines));
  PEAR_TRY(log_.outcome());
  take_account(lines);
  imported_.waiting = rows_without_lines(plan_, lines);
  PEAR_ASSIGN(PreparedLines prepared, to_line_table(plan_, std::move(lines)));
  imported_.currencies = std::move(prepared.currencies);
  imported_.master = std::move(prepared.master);
  imported_.turned = prepared.turned;
  imported_.turned_amount = prepared.turned_amount;
  imported_.fees = prepared.fees;
  imported_.fee_amount = prepared.fee_amount;
  return std::move(prepared.table);
}

OrError<void> Importing::require(TableKind kind, RawTable& table) {
  for (const Requirement& rule : plan_.requirements) {
    if (rule.table != kind) continue;
    const expression::RowView view = table.view();
    PEAR_ASSIGN(const auto stays, kept_by(rule, view));
    count_required(table, stays);
    reject_rows(table, stays, first_column(rule, view), rule.reason, log_);
  }
  return {};
}

OrError<void> Importing::exclude_lines(JoinedLines& lines) {
  for (const Exclusion& rule : plan_.exclusions) {
    const expression::RowView view = lines.view();
    auto condition = expression::Expression::compile_condition(rule.condition, view);
    if (!condition) return data_error(fmt::format("[[exclude]]: {}", condition.error().message));
    auto rows = expression::rows_where(*condition, view);
    if (!rows) return data_error(fmt::format("[[exclude]]: {}", rows.error().message));
    for (std::uint8_t& row : *rows) row = row == 0 ? 1 : 0;
    lines.exclude_lines(*rows, rule.reason, log_);
    note_left(lines, fmt::format("[[exclude]] {} leaves out every line.", in_quotes(rule.condition)));
  }
  return {};
}

OrError<void> Importing::require_lines(JoinedLines& lines) {
  for (const Requirement& rule : plan_.requirements) {
    if (rule.table != TableKind::lines) continue;
    const expression::RowView view = lines.view();
    PEAR_ASSIGN(const auto stays, kept_by(rule, view));
    count_required(lines.lines(), stays);
    lines.reject_lines(stays, first_column(rule, view), rule.reason, log_);
    note_left(lines, fmt::format("[[require]] {}: no line meets it.", in_quotes(rule.condition)));
  }
  return {};
}

void Importing::take_account(JoinedLines& lines) {
  RawTable& table = lines.lines();
  const auto& amounts = std::get<daybook::DecimalValues>(table.find(daybook::role::kAmount)->values).units;
  for (SourceAccount& source : table.sources) source.sums.kept = {};
  for (std::size_t row = 0, source = 0; row < table.rows(); ++row) {
    while (row >= table.source_ends[source]) ++source;
    table.sources[source].sums.kept.add(Decimal::from_units(amounts[row]));
  }
  for (std::size_t kind = 0; kind < kTableKinds; ++kind) {
    if (const auto& each = lines.table(static_cast<TableKind>(kind)))
      imported_.sources.insert(imported_.sources.end(), each->sources.begin(), each->sources.end());
  }
  for (const Join& join : lines.joins()) {
    imported_.joins.push_back(join.count);
    imported_.unmatched.insert(imported_.unmatched.end(), join.unmatched.begin(), join.unmatched.end());
  }
}

OrError<void> check_any_left(const std::vector<std::pair<std::string, std::uint64_t>>& lines_left) {
  for (const auto& [message, lines] : lines_left)
    if (lines == 0) return data_error(message);
  return {};
}

void describe_built(const IntakePlan& plan, Imported& imported) {
  imported.shared_names = shared_values(imported.built.daybook, kNameColumns);
  imported.shared_emails = shared_values(imported.built.daybook, kEmailColumns);
  imported.similar_ids = similar_ids(imported.built.daybook);
  note_decisions(plan, imported);
}

}  // namespace pear::intake
