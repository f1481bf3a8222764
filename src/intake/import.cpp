#include "intake/import.hpp"

#include <algorithm>
#include <optional>
#include <utility>

#include <fmt/format.h>

#include "base/text.hpp"
#include "expression/expression.hpp"
#include "intake/clean/computed_columns.hpp"
#include "intake/clean/customer_sample.hpp"
#include "intake/clean/repeated_orders.hpp"
#include "intake/clean/shared_values.hpp"
#include "intake/clean/spelling.hpp"
#include "intake/join/joined_lines.hpp"
#include "intake/join/nest_lines.hpp"
#include "intake/join/price_list.hpp"
#include "intake/join/rows_without_lines.hpp"
#include "intake/open_tables.hpp"
#include "intake/read/append_rows.hpp"
#include "intake/read/read_table.hpp"

namespace pear::intake {
namespace {

/// The small tables first, so that errors in them are reported soon.
constexpr TableKind kReadingOrder[] = {TableKind::customers, TableKind::products, TableKind::prices,
                                       TableKind::orders, TableKind::lines};

class Importing {
 public:
  Importing(const IntakePlan& plan, const ImportHooks& hooks) : plan_(plan), log_(hooks) {}

  OrError<void> read_and_deduplicate() {
    PEAR_ASSIGN(OpenTables opened, open_tables(plan_));
    std::vector<RawTable*> read;
    for (const TableKind kind : kReadingOrder) {
      if (plan_.table(kind) == nullptr) continue;
      auto& into = tables_[static_cast<std::size_t>(kind)];
      PEAR_ASSIGN(into, read_all(*plan_.table(kind), std::move(opened[static_cast<std::size_t>(kind)])));
      read.push_back(&*into);
    }
    unify_spelling(plan_, read, log_);
    merge_customers(plan_, read, log_);
    for (RawTable* table : read)
      if (plan_.replace_orders && (table->kind == TableKind::lines || table->kind == TableKind::orders))
        replace_repeated_orders(*table, log_);
    for (const DuplicateRule& rule : plan_.duplicates)
      PEAR_TRY(drop_duplicates(rule, *tables_[static_cast<std::size_t>(rule.table)], imported_.duplicates));
    return log_.outcome();
  }

  OrError<Imported> finish() {
    auto& customers = tables_[static_cast<std::size_t>(TableKind::customers)];
    if (customers && customers->find(daybook::role::kCustomerId) != nullptr) {
      PEAR_ASSIGN(imported_.changed_customers, keep_newest_customers(*customers, plan_.latest_customer_by));
    }
    for (const TableKind kind :
         {TableKind::orders, TableKind::products, TableKind::customers, TableKind::prices}) {
      auto& table = tables_[static_cast<std::size_t>(kind)];
      if (table) PEAR_TRY(require(kind, *table));
    }
    PEAR_ASSIGN(JoinedLines lines, JoinedLines::make(plan_, std::move(tables_), log_));
    if (plan_.sample > 0) PEAR_TRY(keep_sampled(plan_.sample, lines, log_));
    PEAR_TRY(look_up_prices(plan_, lines));
    PEAR_ASSIGN(imported_.ungrouped, add_groups_and_bands(plan_, lines));
    PEAR_TRY(exclude_lines(lines));
    PEAR_TRY(require_lines(lines));
    PEAR_TRY(log_.outcome());
    take_account(lines);
    imported_.waiting = rows_without_lines(plan_, lines);
    PEAR_ASSIGN(PreparedLines prepared, to_line_table(plan_, std::move(lines)));
    imported_.currency = std::move(prepared.currency);
    imported_.master = std::move(prepared.master);
    imported_.turned = prepared.turned;
    imported_.turned_amount = prepared.turned_amount;
    imported_.fees = prepared.fees;
    imported_.fee_amount = prepared.fee_amount;
    PEAR_ASSIGN(imported_.built, daybook::build_daybook(std::move(prepared.table)));
    imported_.shared_names = shared_values(imported_.built.daybook, kNameColumns);
    imported_.shared_emails = shared_values(imported_.built.daybook, kEmailColumns);
    imported_.similar_ids = similar_ids(imported_.built.daybook);
    imported_.reasons = log_.reasons();
    imported_.cleaned = log_.cleaned();
    imported_.excluded = log_.excluded();
    note_decisions();
    return std::move(imported_);
  }

  std::vector<DuplicateRow>& duplicates() { return imported_.duplicates; }

 private:
  /// The table of all [[TABLE.from]], each read and computed in its own way.
  OrError<RawTable> read_all(const TablePlan& plan, std::vector<OpenTable> opened) {
    RawTable all;
    for (std::size_t i = 0; i < opened.size(); ++i) {
      imported_.notes.insert(imported_.notes.end(), opened[i].notes.begin(), opened[i].notes.end());
      std::vector<ComputedColumn> computed = plan.from[i].computed;
      if (opened[i].plans.front().has_price_from_amount)
        computed.push_back({std::string(daybook::role::kUnitPrice),
                            "CASE WHEN quantity = 0 THEN amount ELSE amount / quantity END"});
      PEAR_ASSIGN(RawTable table, read_table(std::move(opened[i]), log_));
      unify_formats(plan.from[i], table);
      PEAR_TRY(compute_columns(computed, table, log_));
      for (SourceAccount& source : table.sources) source.part = i;
      if (i == 0)
        all = std::move(table);
      else
        append_rows(all, std::move(table));
    }
    return all;
  }

  OrError<std::vector<std::uint8_t>> kept_by(const Requirement& rule, const expression::RowView& view) const {
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
  static std::string first_column(const Requirement& rule, const expression::RowView& view) {
    const auto condition = expression::Expression::compile_condition(rule.condition, view);
    if (!condition || condition->columns().empty()) return "";
    return view.columns[*condition->columns().begin()].name;
  }

  static void count_required(RawTable& table, const std::vector<std::uint8_t>& stays) {
    for (std::size_t row = 0; row < stays.size(); ++row)
      if (stays[row] == 0) ++table.sources[table.source_of(row)].required_away;
  }

  OrError<void> require(TableKind kind, RawTable& table) {
    for (const Requirement& rule : plan_.requirements) {
      if (rule.table != kind) continue;
      const expression::RowView view = table.view();
      PEAR_ASSIGN(const auto stays, kept_by(rule, view));
      count_required(table, stays);
      reject_rows(table, stays, first_column(rule, view), rule.reason, log_);
    }
    return {};
  }

  OrError<void> exclude_lines(JoinedLines& lines) {
    for (const Exclusion& rule : plan_.exclusions) {
      const expression::RowView view = lines.view();
      auto condition = expression::Expression::compile_condition(rule.condition, view);
      if (!condition) return data_error(fmt::format("[[exclude]]: {}", condition.error().message));
      auto rows = expression::rows_where(*condition, view);
      if (!rows) return data_error(fmt::format("[[exclude]]: {}", rows.error().message));
      for (std::uint8_t& row : *rows) row = row == 0 ? 1 : 0;
      lines.exclude_lines(*rows, rule.reason, log_);
      if (lines.lines().rows() == 0)
        return data_error(fmt::format("[[exclude]] {} leaves out every line.", in_quotes(rule.condition)));
    }
    return {};
  }

  OrError<void> require_lines(JoinedLines& lines) {
    for (const Requirement& rule : plan_.requirements) {
      if (rule.table != TableKind::lines) continue;
      const expression::RowView view = lines.view();
      PEAR_ASSIGN(const auto stays, kept_by(rule, view));
      count_required(lines.lines(), stays);
      lines.reject_lines(stays, first_column(rule, view), rule.reason, log_);
      if (lines.lines().rows() == 0)
        return data_error(fmt::format("[[require]] {}: no line meets it.", in_quotes(rule.condition)));
    }
    return {};
  }

  void take_account(JoinedLines& lines) {
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

  void note_decisions() {
    const bool single = imported_.sources.size() == 1;
    for (const SourceAccount& source : imported_.sources) {
      for (const std::string& note : source.notes)
        imported_.notes.push_back(single ? note : fmt::format("{}: {}", source.record.name, note));
    }
    const auto note = [&](std::uint64_t count, std::string_view text) {
      if (count > 0) imported_.notes.push_back(fmt::format("{} {}", counted(count, "order"), text));
    };
    const daybook::BuiltDaybook& built = imported_.built;
    if (imported_.turned > 0)
      imported_.notes.push_back(
          fmt::format("{} by [returns] condition had a positive quantity and amount; both are now negative.",
                      counted(imported_.turned, "return")));
    if (!plan_.fee_condition.empty())
      imported_.notes.push_back(fmt::format(
          "{} by [fees] condition: {} in all.", counted(imported_.fees, "line is a fee", "lines are fees"),
          imported_.fee_amount.total() ? with_thousands(*imported_.fee_amount.total()) : "too much"));
    note(built.orders_with_two_dates,
         "with lines of different dates; the earliest is used for the whole order.");
    note(built.shared_order_ids,
         "under an id that another customer has too; each customer's lines are a separate order.");
    for (const daybook::NearMiss& miss : built.near_misses)
      imported_.notes.push_back(fmt::format(
          "{} is the same on all lines of {:.1f}% of the {}s; it is kept per {}. [levels] {} = \"{}\" would "
          "give each {} its latest value.",
          miss.column, 100 * miss.share, daybook::to_text(miss.level), daybook::to_text(miss.kept_at),
          miss.column, daybook::to_text(miss.level), daybook::to_text(miss.level)));
    for (const daybook::SettledColumn& settled : built.settled)
      imported_.notes.push_back(
          fmt::format("{} had more than one {}; the latest is used, as [levels] requests.",
                      counted(settled.members, daybook::to_text(settled.level)), settled.column));
  }

  const IntakePlan& plan_;
  IntakeLog log_;
  std::vector<std::optional<RawTable>> tables_{kTableKinds};  // by TableKind
  Imported imported_;
};

}  // namespace

OrError<Imported> import_tables(const IntakePlan& plan, const ImportHooks& hooks) {
  Importing importing(plan, hooks);
  PEAR_TRY(importing.read_and_deduplicate());
  return importing.finish();
}

OrError<std::vector<DuplicateRow>> preview_duplicates(const IntakePlan& plan, const ImportHooks& hooks) {
  Importing importing(plan, hooks);
  PEAR_TRY(importing.read_and_deduplicate());
  return std::move(importing.duplicates());
}

}  // namespace pear::intake
