#include "intake/read/table_columns.hpp"

#include <algorithm>
#include <set>

#include <fmt/format.h>

#include "base/text.hpp"
#include "daybook/columns/derived_columns.hpp"

namespace pear::intake {
namespace {

constexpr std::string_view kInEveryExport[] = {
    daybook::role::kOrderId, daybook::role::kIsReturn, "quarter", "month_of_year", "week", "weekday"};
/// Columns that the daybook has besides roles, and keeps.
constexpr std::string_view kKept[] = {daybook::role::kOrderTime, daybook::role::kIsReturn,
                                      daybook::role::kIsFee};

std::string list_quoted(const std::vector<std::string>& names) {
  std::vector<std::string> each;
  for (const std::string& name : names) each.push_back(in_quotes(name));
  return join(each, ", ");
}

/// Whether the lines were written by `export`: then they contain what is computed, and flags of our own.
bool is_export(TableKind table, const std::vector<std::string>& header) {
  return table == TableKind::lines &&
         std::all_of(std::begin(kInEveryExport), std::end(kInEveryExport), [&](std::string_view name) {
           return std::find(header.begin(), header.end(), name) != header.end();
         });
}

/// By column of the source, its assigned name or the role of its header; empty if there is neither.
OrError<std::vector<std::string>> named_columns(TableKind table, const SourcePlan& plan,
                                                const std::vector<std::string>& header,
                                                const std::string& source) {
  std::vector<std::string> names(header.size());
  std::set<std::string> given;
  for (const auto& [name, wanted] : plan.columns) {
    const auto found = std::find(header.begin(), header.end(), wanted);
    if (found == header.end())
      return data_error(fmt::format("{} has no column {} for {}; its columns are {}.{}", source,
                                    in_quotes(wanted), name, list_quoted(header),
                                    did_you_mean(wanted, header)));
    names[static_cast<std::size_t>(found - header.begin())] = name;
    given.insert(name);
  }
  for (std::size_t i = 0; i < header.size() && is_export(table, header); ++i)
    if (std::find(std::begin(kKept), std::end(kKept), header[i]) != std::end(kKept)) names[i] = header[i];
  for (std::size_t i = 0; i < header.size(); ++i) {
    const std::string name = snake_case(header[i]);
    if (!names[i].empty() || find_role(name, table) == nullptr || given.contains(name)) continue;
    names[i] = name;
    given.insert(name);
  }
  return names;
}

class NameGiver {
 public:
  explicit NameGiver(const std::vector<std::string>& named)
      : taken_(reserved_names().begin(), reserved_names().end()) {
    for (const std::string& name : role_names()) taken_.insert(name);
    for (const std::string& name : named) taken_.insert(name);
  }
  std::string name_for(TableKind table, std::size_t position, const std::string& header,
                       std::vector<std::string>& notes) {
    const std::string plain = plain_name(table, header);
    std::string name = plain.empty() ? fmt::format("column_{}", position + 1) : plain;
    for (int number = 2; taken_.contains(name); ++number) name = fmt::format("{}_{}", plain, number);
    if (plain.empty()) {
      notes.push_back(
          fmt::format("Column {} has no name in the header; it is called {}.", position + 1, name));
    } else if (name != plain) {
      notes.push_back(fmt::format("Column {} ({}) is called {}, because {} is used already.", position + 1,
                                  in_quotes(header), name, plain));
    }
    taken_.insert(name);
    return name;
  }

 private:
  std::set<std::string> taken_;
};

std::size_t rank(const PlannedColumn& column) {
  for (std::size_t i = 0; i < kRoles; ++i) {
    if (column.is_role && roles().at(i).name == column.name) return i;
  }
  return kRoles;
}

template <class Names>
bool among(const Names& names, const std::string& name) {
  return std::find(names.begin(), names.end(), name) != names.end();
}

/// Every column that the plan mentions must exist.
OrError<void> check_names(const SourcePlan& plan, const TableColumns& columns, const std::string& source) {
  std::vector<std::string> known;
  for (const PlannedColumn& column : columns.columns) known.push_back(column.name);
  const auto check = [&](const std::string& name, std::string_view key) -> OrError<void> {
    if (among(known, name)) return {};
    return data_error(fmt::format("{}: {} names {}, but {} has no such column.{}", to_text(columns.table),
                                  key, in_quotes(name), source, did_you_mean(name, known)));
  };
  for (const std::string& name : plan.trim) PEAR_TRY(check(name, "trim"));
  for (const std::string& name : plan.fold_case) PEAR_TRY(check(name, "fold_case"));
  for (const auto& [name, values] : plan.replace) PEAR_TRY(check(name, "replace"));
  return {};
}

/// Exports often contain what was paid for a line, and no price.
void compute_missing_price(TableColumns& lines) {
  const auto has = [&](std::string_view name) {
    return lines.find(name) < lines.columns.size() || lines.is_computed(name);
  };
  if (has(daybook::role::kUnitPrice) || !has(daybook::role::kAmount) || !has(daybook::role::kQuantity))
    return;
  lines.has_price_from_amount = true;
  lines.computed.emplace_back(daybook::role::kUnitPrice);
  lines.notes.emplace_back("There is no column of prices: unit_price is amount / quantity.");
}

void add_cleaning(const SourcePlan& plan, PlannedColumn& column) {
  column.cleaning.trim = plan.trim_all || among(plan.trim, column.name);
  column.cleaning.empty_as = {plan.empty_as.begin(), plan.empty_as.end()};
  if (const auto found = plan.replace.find(column.name); found != plan.replace.end())
    column.cleaning.replace = {found->second.begin(), found->second.end()};
}

}  // namespace

OrError<std::vector<std::pair<std::string, std::string>>> parse_assignments(std::string_view text) {
  std::vector<std::pair<std::string, std::string>> assignments;
  std::string_view rest = text;
  while (!rest.empty()) {
    const std::size_t equals = rest.find('=');
    if (equals == std::string_view::npos || equals == 0)
      return usage_error(
          fmt::format("--map: {} is not role=column, as in order_id=\"Order No\".", in_quotes(rest)));
    std::string role(rest.substr(0, equals));
    if (find_role(role, TableKind::lines) == nullptr)
      return usage_error(fmt::format("--map: {} is not a role; roles are {}.{}", in_quotes(role),
                                     join(role_names(), ", "), did_you_mean(role, role_names())));
    if (std::any_of(assignments.begin(), assignments.end(),
                    [&](const auto& each) { return each.first == role; }))
      return usage_error(fmt::format("--map: the role {} is given twice.", role));
    rest.remove_prefix(equals + 1);
    const bool is_quoted = rest.starts_with('"');
    if (is_quoted) rest.remove_prefix(1);
    const std::size_t end = rest.find(is_quoted ? '"' : ',');
    if (is_quoted && end == std::string_view::npos)
      return usage_error(
          fmt::format("--map: the quotation mark before {} is never closed.", in_quotes(rest)));
    assignments.emplace_back(std::move(role), std::string(rest.substr(0, end)));
    rest.remove_prefix(
        std::min(rest.size(), end == std::string_view::npos ? rest.size() : end + (is_quoted ? 1 : 0)));
    if (!rest.empty() && rest.front() != ',')
      return usage_error(fmt::format("--map: expected a comma before {}.", in_quotes(rest)));
    if (!rest.empty()) rest.remove_prefix(1);
  }
  return assignments;
}

std::string plain_name(TableKind table, const std::string& header) {
  std::string name = snake_case(header);
  const bool of_many = table == TableKind::products || table == TableKind::customers;
  return of_many && name == "name" ? fmt::format("{}_name", singular(table)) : name;
}

std::size_t TableColumns::find(std::string_view name) const {
  const auto found = std::find_if(columns.begin(), columns.end(),
                                  [&](const PlannedColumn& column) { return column.name == name; });
  return static_cast<std::size_t>(found - columns.begin());
}

bool TableColumns::is_computed(std::string_view name) const { return among(computed, std::string(name)); }

OrError<TableColumns> plan_columns(TableKind table, const SourcePlan& plan,
                                   const std::vector<std::string>& header, const std::string& source) {
  TableColumns result;
  result.table = table;
  result.dates = plan.dates;
  result.numbers = plan.numbers;
  result.skip_rows = plan.skip_rows;
  result.skip_if = plan.skip_if;
  for (const ComputedColumn& column : plan.computed) result.computed.push_back(column.name);
  PEAR_ASSIGN(const std::vector<std::string> named, named_columns(table, plan, header, source));
  NameGiver names(named);
  std::vector<std::string> computed;
  for (std::size_t i = 0; i < header.size(); ++i) {
    if (named[i].empty() && is_export(table, header) && among(daybook::derived_names(), header[i])) {
      computed.push_back(header[i]);
      continue;
    }
    PlannedColumn column;
    column.position = i;
    column.header = header[i];
    column.name = named[i].empty() ? names.name_for(table, i, header[i], result.notes) : named[i];
    if (const RoleInfo* role = find_role(column.name, table)) {
      column.is_role = true;
      column.kind = role->kind;
      column.needs_value = (role->needed && !result.is_computed(column.name)) ||
                           (table == TableKind::prices && role->name == daybook::role::kListPrice);
    }
    add_cleaning(plan, column);
    result.columns.push_back(std::move(column));
  }
  if (!computed.empty())
    result.notes.push_back(
        fmt::format("An export of a daybook: {} are computed again.", join(computed, ", ")));
  if (table == TableKind::lines) compute_missing_price(result);
  std::stable_sort(result.columns.begin(), result.columns.end(),
                   [](const PlannedColumn& a, const PlannedColumn& b) { return rank(a) < rank(b); });
  PEAR_TRY(check_names(plan, result, source));
  return result;
}

tl::unexpected<Error> missing_roles(const std::vector<std::string>& missing, const TableColumns& columns,
                                    const std::string& source, const std::string& intake_file) {
  std::vector<PlannedColumn> in_order = columns.columns;
  std::sort(in_order.begin(), in_order.end(),
            [](const PlannedColumn& a, const PlannedColumn& b) { return a.position < b.position; });
  std::vector<std::string> headers, free;
  for (const PlannedColumn& column : in_order) {
    headers.push_back(column.header);
    if (!column.is_role) free.push_back(column.header);
  }
  const bool by_file = !intake_file.empty();
  std::vector<std::string> suggestions;
  for (const std::string& name : missing) {
    if (const auto near = nearest_name(name, free))
      suggestions.push_back(fmt::format("{}{}{}", name, by_file ? " = " : "=", in_quotes(*near)));
  }
  if (suggestions.empty())
    suggestions.push_back(fmt::format("{}{}\"Name of the column\"", missing.front(), by_file ? " = " : "="));
  const std::string remedy = by_file
                                 ? fmt::format("Name them under [{}.columns] of {}, for example {}.",
                                               to_text(columns.table), intake_file, join(suggestions, ", "))
                                 : fmt::format(
                                       "Name them, for example --map {}; or run pear-thread inspect {} "
                                       "--write intake.toml to write an intake file.",
                                       join(suggestions, ","), source);
  return data_error(fmt::format("{}: no column was recognised as {}. Its columns are {}. {}", source,
                                join(missing, ", "), list_quoted(headers), remedy));
}

}  // namespace pear::intake
