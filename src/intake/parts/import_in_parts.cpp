#include "intake/parts/import_in_parts.hpp"

#include <algorithm>
#include <utility>
#include <vector>

#include <fmt/format.h>

#include "intake/importing.hpp"
#include "intake/join/nest_lines.hpp"
#include "intake/open_tables.hpp"
#include "intake/parts/parts_total.hpp"
#include "intake/parts/row_spool.hpp"
#include "intake/plan/role.hpp"
#include "intake/read/read_table.hpp"
#include "intake/source_rows.hpp"

namespace pear::intake {
namespace {

const Kinds kLists = {TableKind::customers, TableKind::products, TableKind::prices};
const Kinds kInParts = {TableKind::orders, TableKind::lines};

tl::unexpected<Error> not_in_parts(const std::string& what) {
  return usage_error(fmt::format(
      "--memory sorts the orders part by part, and {} needs all of them at once. Import without --memory.",
      what));
}

/// Spellings are counted while rows are read, which is before columns are computed.
OrError<void> check_spelling(const IntakePlan& plan, const OpenTables& opened) {
  const Spellings spellings(plan);
  if (spellings.has(std::string(daybook::role::kOrderId))) return not_in_parts("fold_case of order_id");
  for (const TableKind kind : kInParts)
    for (const OpenTable& table : opened[static_cast<std::size_t>(kind)])
      for (const std::string& name : table.plans.front().computed)
        if (spellings.any() && (spellings.has(name) || find_role(name, kind) != nullptr))
          return not_in_parts(fmt::format("fold_case next to the computed column {}", name));
  return {};
}

/// A plan that needs only the rows of one order, or of lists, for each of its steps.
OrError<void> check_in_parts(const IntakePlan& plan, const OpenTables& opened) {
  const std::string id(daybook::role::kOrderId);
  PEAR_TRY(check_spelling(plan, opened));
  for (const DuplicateRule& rule : plan.duplicates)
    if ((rule.table == TableKind::lines || rule.table == TableKind::orders) &&
        std::find(rule.same.begin(), rule.same.end(), id) == rule.same.end())
      return not_in_parts(
          fmt::format("[[duplicates]] in {} without order_id in `same`", to_text(rule.table)));
  if (const auto join = plan.joins.find({TableKind::lines, TableKind::orders});
      join != plan.joins.end() &&
      std::find(join->second.begin(), join->second.end(), std::pair(id, id)) == join->second.end())
    return not_in_parts("[joins] of lines and orders by another column than order_id");
  for (const TableKind kind : kInParts)
    for (const OpenTable& table : opened[static_cast<std::size_t>(kind)]) {
      if (table.plans.front().is_computed(id)) return not_in_parts("an order_id that is computed");
      if (!table.has(id)) return not_in_parts(fmt::format("a table of {} without order_id", to_text(kind)));
    }
  return {};
}

/// One [[TABLE.from]] of lines or orders, on disk.
struct SpooledSource {
  TableKind kind = TableKind::lines;
  std::size_t part = 0;  ///< of the table's [[TABLE.from]]
  std::vector<ComputedColumn> computed;
  RowSpool spool;
};

/// Parts of the rows from `begin` to before `end`.
struct PartRange {
  std::size_t begin = 0, end = 0;
};

class ImportInParts {
 public:
  ImportInParts(const IntakePlan& plan, const ImportHooks& hooks, const PartsOptions& options)
      : plan_(plan), options_(options), log_(hooks), lists_(plan, log_), spellings_(plan) {}

  OrError<Imported> run(const TakePart& take) {
    PEAR_ASSIGN(OpenTables opened, open_tables(plan_));
    PEAR_TRY(check_in_parts(plan_, opened));
    PEAR_TRY(read_lists(opened));
    for (const TableKind kind : kInParts)
      if (plan_.table(kind) != nullptr) PEAR_TRY(spool(kind, opened[static_cast<std::size_t>(kind)]));
    facts_.spelling = spellings_.take_usual();
    PEAR_TRY(clean_lists());
    PEAR_TRY(find_facts());
    const std::vector<SourceAccount> sources = accounts();
    SourceOrder order;
    for (const SourceAccount& source : sources) order.add(source.record.table, source.record.name);
    log_.set_order(std::move(order));
    PartsTotal total(sources);
    std::vector<std::pair<std::string, std::uint64_t>> lines_left;
    for (const PartRange range : ranges()) {
      show_progress("joining and sorting", range);
      PEAR_TRY(import_part(range, total, lines_left, take));
    }
    PEAR_TRY(check_any_left(lines_left));
    Imported of_lists = lists_.take();
    total.add_duplicates(std::move(of_lists.duplicates));
    Imported imported = total.take();
    imported.changed_customers = std::move(of_lists.changed_customers);
    imported.notes = std::move(notes_);
    imported.take_tallies(log_);
    PEAR_ASSIGN(imported.currency, settle_currency(plan_, imported.currencies));
    return imported;
  }

 private:
  OrError<void> read_lists(OpenTables& opened) {
    for (const TableKind kind : kLists)
      if (plan_.table(kind) != nullptr)
        PEAR_TRY(read_all(*plan_.table(kind), std::move(opened[static_cast<std::size_t>(kind)]),
                          table_of(lists_.tables, kind), log_, notes_));
    for (const auto& table : lists_.tables)
      if (table) spellings_.count(*table);
    return {};
  }

  OrError<void> clean_lists() {
    lists_.facts = &facts_;
    PEAR_TRY(lists_.clean(kLists));
    return lists_.settle(kLists);
  }

  OrError<void> spool(TableKind kind, std::vector<OpenTable>& opened) {
    for (std::size_t i = 0; i < opened.size(); ++i) {
      notes_.insert(notes_.end(), opened[i].notes.begin(), opened[i].notes.end());
      const SourcePlan& format = plan_.table(kind)->from[i];
      PEAR_ASSIGN(RowSpool rows,
                  RowSpool::create(fmt::format("{}/{}-{}", options_.folder, to_text(kind), i + 1),
                                   opened[i].plans.front(), format, spellings_));
      PEAR_TRY(read_rows_of(opened[i], rows, log_));
      PEAR_TRY(check_any_kept(kind, rows.rows(), rows.accounts(), log_));
      spooled_.push_back({kind, i, computed_columns(format, opened[i]), std::move(rows)});
    }
    return {};
  }

  /// Lines first, as in reports. Amounts that depend on computed columns are counted part by part.
  [[nodiscard]] std::vector<SourceAccount> accounts() const {
    std::vector<SourceAccount> all;
    for (const TableKind kind : {TableKind::lines, TableKind::orders}) {
      for (const SpooledSource& source : spooled_) {
        if (source.kind != kind) continue;
        for (SourceAccount account : source.spool.accounts()) {
          account.part = source.part;
          if (kind == TableKind::lines && !source.computed.empty()) {
            account.sums = {};
            account.sums.unreadable = account.record.rows_rejected;
          }
          all.push_back(std::move(account));
        }
      }
    }
    return all;
  }

  /// As many parts at once as the memory allows, each range with lines.
  [[nodiscard]] std::vector<PartRange> ranges() const {
    std::vector<PartRange> all;
    std::uint64_t needed = 0, lines = 0;
    for (std::size_t part = 0; part < RowSpool::kParts; ++part) {
      std::uint64_t need_of_part = 0, lines_of_part = 0;
      for (const SpooledSource& source : spooled_) {
        need_of_part += source.spool.memory_of(part);
        if (source.kind == TableKind::lines) lines_of_part += source.spool.rows_of(part);
      }
      if (all.empty() || (lines > 0 && lines_of_part > 0 && needed + need_of_part > options_.memory)) {
        all.push_back({part, part});
        needed = lines = 0;
      }
      all.back().end = part + 1;
      needed += need_of_part;
      lines += lines_of_part;
    }
    return all;
  }

  /// What some steps need to know of all rows is found before these steps, by reading all parts.
  OrError<void> find_facts() {
    const ImportHooks silent{[](const RejectedRow&) -> OrError<void> { return {}; },
                             [](const ChangedCell&) -> OrError<void> { return {}; },
                             [](const ImportProgress&) {}};
    IntakeLog silent_log(silent);
    RowFacts found;
    if (plan_.replace_orders) {
      for (const PartRange range : ranges()) {
        show_progress("finding orders that are exported again", range);
        Importing part(plan_, silent_log);
        PEAR_TRY(load(range, part, silent_log));
        part.find_shared_ids(kInParts, found);
      }
      facts_.shares_order_ids = std::move(found.shares_order_ids);
    }
    if (plan_.bands.empty()) return {};
    for (const PartRange range : ranges()) {
      show_progress("finding the numbers of bands", range);
      Importing part(plan_, silent_log);
      PEAR_TRY(load(range, part, silent_log));
      PEAR_TRY(part.clean(kInParts));
      PEAR_TRY(part.settle({TableKind::orders}));
      PEAR_TRY(part.find_whole_bands(found));
    }
    facts_.whole_bands = std::move(found.whole_bands);
    return {};
  }

  void show_progress(const std::string& stage, PartRange range) {
    log_.progress({stage, 0, range.begin, RowSpool::kParts, true});
  }

  OrError<void> load(PartRange range, Importing& part, IntakeLog& log) {
    part.tables = lists_.tables;
    part.facts = &facts_;
    for (const SpooledSource& source : spooled_) {
      PEAR_ASSIGN(RawTable rows, source.spool.load(range.begin, range.end));
      PEAR_TRY(add_source_rows(source.computed, source.part, std::move(rows),
                               table_of(part.tables, source.kind), log));
    }
    return {};
  }

  OrError<void> import_part(PartRange range, PartsTotal& total,
                            std::vector<std::pair<std::string, std::uint64_t>>& lines_left,
                            const TakePart& take) {
    Importing part(plan_, log_);
    PEAR_TRY(load(range, part, log_));
    PEAR_TRY(part.clean(kInParts));
    PEAR_TRY(part.settle({TableKind::orders}));
    PEAR_ASSIGN(daybook::LineTable lines, part.prepare());
    for (std::size_t step = 0; step < part.lines_left().size(); ++step) {
      if (step == lines_left.size()) lines_left.emplace_back(part.lines_left()[step].first, 0);
      lines_left[step].second += part.lines_left()[step].second;
    }
    total.add(part.take());
    if (lines.lines() == 0) return {};
    return take(std::move(lines));
  }

  const IntakePlan& plan_;
  const PartsOptions& options_;
  IntakeLog log_;
  Importing lists_;
  Spellings spellings_;
  RowFacts facts_;
  std::vector<std::string> notes_;
  std::vector<SpooledSource> spooled_;
};

}  // namespace

OrError<Imported> import_in_parts(const IntakePlan& plan, const ImportHooks& hooks,
                                  const PartsOptions& options, const TakePart& take) {
  return ImportInParts(plan, hooks, options).run(take);
}

}  // namespace pear::intake
