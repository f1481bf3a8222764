#include "cli/commands/import_append.hpp"

#include <utility>

#include <fmt/format.h>

#include "analysis/population.hpp"
#include "base/text.hpp"
#include "daybook/merge.hpp"
#include "intake/known_sources.hpp"
#include "storage/daybook_reader.hpp"

namespace pear::cli {
namespace {

OrError<void> check_currency(const std::string& path, const daybook::Provenance& old,
                             const daybook::Provenance& added) {
  if (!old.currency.empty() && !added.currency.empty() && old.currency != added.currency)
    return data_error(fmt::format("{} is in {}, and the new lines are in {}. A daybook has one currency.",
                                  path, old.currency, added.currency));
  return {};
}

std::string sample_text(std::uint32_t one_in) {
  return one_in == 0 ? "all customers" : fmt::format("a sample of 1 in {} customers", one_in);
}

OrError<void> check_sample(const std::string& path, std::uint32_t old, std::uint32_t added) {
  if (old == added) return {};
  return usage_error(fmt::format(
      "{} contains {}, and the new lines would be those of {}. Append {}.", path, sample_text(old),
      sample_text(added), old == 0 ? "without --customers" : fmt::format("with --customers 1/{}", old)));
}

/// Gives new lines what earlier lists say of their customers and products, and old lines what the new lists
/// say. The rest keeps waiting, in `added`. Returns how many values of members changed.
std::uint64_t apply_lists(const std::vector<daybook::MemberList>& old,
                          std::vector<daybook::MemberList>& added, daybook::LineTable& table) {
  std::uint64_t changed = 0;
  std::vector<daybook::MemberList> rest;
  for (const daybook::Level level : {daybook::Level::customer, daybook::Level::product}) {
    const daybook::MemberList earlier = list_of(old, level), later = list_of(added, level);
    fill_from_list(earlier, daybook::Replaced::empty, table);
    changed += fill_from_list(later, daybook::Replaced::all, table);
    const bool is_customers = level == daybook::Level::customer;
    rest.push_back(still_waiting(earlier, later, is_customers ? table.customer_ids : table.product_ids));
    if (rest.back().ids.empty()) rest.pop_back();
  }
  added = std::move(rest);
  return changed;
}

std::string replaced_orders(const daybook::MergedLines& merged) {
  if (merged.orders_repeated == 0) return "No order was replaced: the daybook had none of the new ones.";
  return fmt::format("{} in the daybook already and {} replaced ({}); {} changed.",
                     counted(merged.orders_repeated, "order was", "orders were"),
                     merged.orders_repeated == 1 ? "was" : "were", counted(merged.lines_replaced, "line"),
                     with_thousands(static_cast<std::int64_t>(merged.orders_changed)));
}

/// Puts the origin of the old lines in front of that of the new ones.
void join_provenance(const daybook::Provenance& old, const daybook::MergedLines& merged, std::uint64_t added,
                     std::uint64_t lines, daybook::Provenance& provenance) {
  daybook::ImportRun& run = provenance.runs.front();
  run.lines_added = added;
  run.lines_replaced = merged.lines_replaced;
  run.lines = lines;
  provenance.runs.insert(provenance.runs.begin(), old.runs.begin(), old.runs.end());
  for (daybook::SourceRecord& source : provenance.sources)
    source.run = static_cast<std::uint32_t>(provenance.runs.size());
  provenance.sources.insert(provenance.sources.begin(), old.sources.begin(), old.sources.end());
  provenance.cleaning.insert(provenance.cleaning.begin(), old.cleaning.begin(), old.cleaning.end());
  if (merged.lines_there_already > 0)
    provenance.cleaning.push_back({"appended lines that were there already", merged.lines_there_already});
  if (provenance.currency.empty()) provenance.currency = old.currency;
  if (provenance.shop.empty()) provenance.shop = old.shop;
}

}  // namespace

OrError<std::vector<std::string>> skip_known_sources(const std::string& path, intake::IntakePlan& plan) {
  PEAR_ASSIGN(const storage::DaybookFile file, storage::DaybookFile::open(path));
  PEAR_TRY(check_sample(path, file.info().provenance.sample, plan.sample));
  std::vector<std::string> known = intake::skip_known_sources(file.info().provenance, plan);
  if (intake::has_new_lines(plan)) return known;
  return data_error(fmt::format("nothing to append: {} {} in {} already, byte for byte.", join(known, ", "),
                                known.size() == 1 ? "is" : "are", path));
}

OrError<void> append_to(const std::string& path, bool replace_orders, intake::Imported& imported,
                        daybook::Provenance& provenance, result::Result& report) {
  daybook::BuiltDaybook& built = imported.built;
  PEAR_ASSIGN(storage::DaybookFile file, storage::DaybookFile::open(path));
  const daybook::Provenance old = file.info().provenance;
  PEAR_TRY(check_currency(path, old, provenance));
  PEAR_ASSIGN(const daybook::Daybook before, file.load_all());
  const std::uint32_t added_lines = built.daybook.lines();
  daybook::MergedLines merged = daybook::merge_daybooks(
      before, built.daybook, imported.master,
      replace_orders ? daybook::RepeatedOrders::replace : daybook::RepeatedOrders::add_lines);
  PEAR_ASSIGN(const std::vector<daybook::MemberList> waiting, file.waiting());
  merged.changed_values += apply_lists(waiting, imported.waiting, merged.table);
  PEAR_ASSIGN(built, daybook::build_daybook(std::move(merged.table)));

  const std::uint64_t already = merged.lines_there_already;
  join_provenance(old, merged, added_lines - already, built.daybook.lines(), provenance);
  report.headline.insert(report.headline.begin() + 1,
                         fmt::format("{} added to {}, which now has {}.",
                                     counted(added_lines - already, "line was", "lines were"), path,
                                     counted(built.daybook.lines(), "line")));
  if (replace_orders) report.headline.insert(report.headline.begin() + 2, replaced_orders(merged));
  if (already > 0)
    report.notes.push_back(fmt::format("{} of the new sources {} in the daybook already and {} left out.",
                                       counted(already, "line"), already == 1 ? "was" : "were",
                                       already == 1 ? "was" : "were"));
  if (merged.orders_of_others > 0)
    report.notes.push_back(fmt::format(
        "{} under the id of another customer's order, which stays: customers share order ids here.",
        counted(merged.orders_of_others, "new order is", "new orders are")));
  std::vector<std::string> moved;
  for (const daybook::Column& column : before.parts().columns)
    if (const daybook::Column* now = built.daybook.find(column.name); now->level != column.level)
      moved.push_back(fmt::format("{} (now of each {})", column.name, daybook::to_text(now->level)));
  if (!moved.empty())
    report.notes.push_back(fmt::format(
        "With the new lines, these columns are no longer constant at their level: {}.", join(moved, ", ")));
  if (merged.changed_values > 0)
    report.notes.push_back(fmt::format("{} of customers and products changed; the new ones count.",
                                       counted(merged.changed_values, "value")));
  report.checks.push_back(
      {"lines before - lines replaced + lines added = lines in the daybook",
       before.lines() - merged.lines_replaced + added_lines - already == built.daybook.lines()});
  report.population = analysis::population_of(built.daybook);
  report.population.one_in = old.sample;
  return {};
}

}  // namespace pear::cli
