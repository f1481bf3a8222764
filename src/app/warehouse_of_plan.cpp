#include "app/warehouse_of_plan.hpp"

#include <algorithm>
#include <array>
#include <filesystem>
#include <map>
#include <utility>
#include <vector>

#include <fmt/format.h>

#include "base/text.hpp"
#include "daybook/daybook.hpp"
#include "expression/syntax/parse.hpp"
#include "intake/plan/role.hpp"

namespace pear::app {
namespace {

using intake::TableKind;
namespace role = daybook::role;

constexpr std::array kAnswering = {TableKind::lines, TableKind::orders, TableKind::products,
                                   TableKind::customers};

std::string file_of(const intake::IntakePlan& plan) {
  return std::filesystem::path(plan.file).filename().string();
}

/// The first key of a table's section that changes values or leaves rows out; empty if there is none.
std::string cleaning_key(const intake::SourcePlan& source) {
  const std::vector<std::pair<bool, const char*>> keys = {
      {source.trim_all || !source.trim.empty(), "trim"},
      {!source.fold_case.empty(), "fold_case"},
      {!source.empty_as.empty(), "empty_as"},
      {!source.skip_rows.empty(), "skip_rows"},
      {!source.skip_if.empty(), "skip_if"},
      {!source.replace.empty(), "replace"},
      {!source.computed.empty(), "compute"},
      {!source.dates.formats.empty(), "date_format"},
      {source.numbers.decimal != '.', "decimal"},
      {!source.numbers.thousands.empty(), "thousands"},
      {!source.numbers.strip.empty(), "strip"},
      {!source.numbers.is_plain(), "the format of numbers"}};
  const auto found = std::find_if(keys.begin(), keys.end(), [](const auto& key) { return key.first; });
  return found == keys.end() ? "" : found->second;
}

/// The same for the whole file.
std::string cleaning_key(const intake::IntakePlan& plan) {
  const std::vector<std::pair<bool, const char*>> keys = {
      {plan.table(TableKind::prices) != nullptr, "prices"},
      {!plan.duplicates.empty(), "duplicates"},
      {!plan.requirements.empty(), "require"},
      {!plan.exclusions.empty(), "exclude"},
      {plan.replace_orders, "on_repeat"},
      {!plan.latest_customer_by.empty(), "latest_by"},
      {!plan.same_customers.empty(), "same_customer"},
      {!plan.groups.empty(), "groups"},
      {!plan.bands.empty(), "bands"},
      {!plan.return_condition.empty() && plan.turn_returns, "[returns] without sign = \"keep\""}};
  const auto found = std::find_if(keys.begin(), keys.end(), [](const auto& key) { return key.first; });
  return found == keys.end() ? "" : found->second;
}

tl::unexpected<Error> needs_rows(const intake::IntakePlan& plan, const std::string& key) {
  return usage_error(
      fmt::format("{}: {} needs the rows on this side, so the database cannot answer. Do this in a view of "
                  "the database, or import the file.",
                  file_of(plan), key));
}

const sources::TableAddress* source_of(const intake::IntakePlan& plan, TableKind kind) {
  const intake::TablePlan* table = plan.table(kind);
  return table == nullptr ? nullptr : &table->from.front().sources.front();
}

std::string alias_of(TableKind kind) { return fmt::format("pear_table_{}", intake::to_text(kind)); }

/// Finds the columns of the tables, and where each comes from.
class Finder {
 public:
  Finder(const intake::IntakePlan& plan, pushdown::Session& session) : plan_(plan), session_(session) {}

  OrError<pushdown::Warehouse> find() {
    made_.name = file_of(plan_);
    made_.currency = plan_.currency;
    for (const TableKind kind : kAnswering)
      if (plan_.table(kind) != nullptr) PEAR_TRY(add_table(kind));
    for (const std::string_view name :
         {role::kCustomerId, role::kOrderId, role::kProductId, role::kOrderDate, role::kQuantity})
      PEAR_TRY(require(name, has(name)));
    PEAR_TRY(require(role::kAmount, has(role::kAmount) || has(role::kUnitPrice)));
    PEAR_TRY(add_condition("returns", plan_.return_condition, made_.returns));
    PEAR_TRY(add_condition("fees", plan_.fee_condition, made_.fees));
    return std::move(made_);
  }

 private:
  [[nodiscard]] bool has(std::string_view name) const {
    return std::any_of(made_.columns.begin(), made_.columns.end(),
                       [&](const auto& column) { return column.name == name; });
  }

  [[nodiscard]] OrError<void> require(std::string_view name, bool is_there) const {
    if (is_there) return {};
    return usage_error(fmt::format(
        "{}: no table has a column for {}. Name it in [lines.columns] or in that of another table.",
        made_.name, name));
  }

  OrError<void> add_table(TableKind kind) {
    const intake::SourcePlan& source = plan_.table(kind)->from.front();
    const std::string query = source.sources.front().query;
    PEAR_ASSIGN(const std::vector<pushdown::SqlColumn> header, session_.header(query));
    std::map<std::string, std::string>& raw = raw_[kind];
    for (const pushdown::SqlColumn& column : header) {
      const std::string name = name_of(source, column.name);
      raw.emplace(name, database::sql_name(column.name));
      if (!has(name) && !is_reserved(name)) add_column(kind, name, column);
    }
    made_.from += kind == TableKind::lines ? fmt::format("({}) AS {}", query, alias_of(kind))
                                           : fmt::format(" LEFT JOIN ({}) AS {} ON ", query, alias_of(kind));
    if (kind == TableKind::lines) return {};
    return add_join(kind, query);
  }

  /// A name that is computed from the lines, such as month or is_return.
  [[nodiscard]] static bool is_reserved(std::string_view name) {
    const auto names = intake::reserved_names();
    return std::find(names.begin(), names.end(), name) != names.end();
  }

  [[nodiscard]] static std::string name_of(const intake::SourcePlan& source, const std::string& header) {
    for (const auto& [name, of] : source.columns)
      if (of == header) return name;
    return snake_case(header);
  }

  void add_column(TableKind kind, const std::string& name, const pushdown::SqlColumn& column) {
    const intake::RoleInfo* info = intake::find_role(name, kind);
    pushdown::WarehouseColumn made{name, level_of(kind, name), column.type,
                                   alias_of(kind) + "." + database::sql_name(column.name)};
    if (info != nullptr && info->kind == intake::ColumnKind::text) made.type = daybook::ColumnType::text;
    if (info != nullptr && info->kind == intake::ColumnKind::number) made.type = daybook::ColumnType::decimal;
    if (name == role::kOrderDate) {
      made.type = daybook::ColumnType::date;
      made_.columns.push_back(
          {std::string(role::kOrderTime), daybook::Level::order, daybook::ColumnType::time, made.raw});
    }
    made.is_native = made.type == column.type;
    made_.columns.push_back(std::move(made));
  }

  [[nodiscard]] daybook::Level level_of(TableKind kind, const std::string& name) const {
    if (const auto found = plan_.levels.find(name); found != plan_.levels.end()) return found->second;
    if (kind == TableKind::products) return daybook::Level::product;
    if (kind == TableKind::customers) return daybook::Level::customer;
    return kind == TableKind::orders || name == role::kOrderDate ? daybook::Level::order
                                                                 : daybook::Level::line;
  }

  /// The pairs of columns that are equal, and the key of the joined table, which must be unique.
  OrError<void> add_join(TableKind one, const std::string& query) {
    const std::string id(one == TableKind::orders     ? role::kOrderId
                         : one == TableKind::products ? role::kProductId
                                                      : role::kCustomerId);
    TableKind many = TableKind::lines;
    intake::JoinKeys keys = {{id, id}};
    for (const auto& [between, given] : plan_.joins)
      if (between.second == one) many = between.first, keys = given;
    if (one == TableKind::customers && !raw_[many].contains(keys.front().first)) many = TableKind::orders;
    pushdown::UniqueKey key{query, {}, {}, std::string(intake::to_text(one))};
    std::vector<std::string> same;
    for (const auto& [ours, theirs] : keys) {
      const auto a = raw_[many].find(ours), b = raw_[one].find(theirs);
      if (a == raw_[many].end() || b == raw_[one].end())
        return usage_error(fmt::format(
            "{}: {} and {} have no columns {} and {} to join them by. Name them in [joins].", made_.name,
            intake::to_text(many), intake::to_text(one), in_quotes(ours), in_quotes(theirs)));
      same.push_back(fmt::format("{}.{} = {}.{}", alias_of(many), a->second, alias_of(one), b->second));
      key.columns.push_back(b->second);
      key.names.push_back(b->second.substr(1, b->second.size() - 2));
    }
    made_.from += join(same, " AND ");
    made_.keys.push_back(std::move(key));
    return {};
  }

  OrError<void> add_condition(const char* section, const std::string& condition,
                              std::optional<expression::Tree>& into) const {
    if (condition.empty()) return {};
    auto tree = expression::parse_tree(condition);
    if (!tree) return usage_error(fmt::format("{}, [{}]: {}", made_.name, section, tree.error().message));
    into = std::move(*tree);
    return {};
  }

  const intake::IntakePlan& plan_;
  pushdown::Session& session_;
  pushdown::Warehouse made_;
  std::map<TableKind, std::map<std::string, std::string>>
      raw_;  ///< by table, by our name: the column's name in SQL
};

}  // namespace

OrError<database::DatabaseAddress> database_of(const intake::IntakePlan& plan) {
  const sources::TableAddress* lines = source_of(plan, TableKind::lines);
  if (lines == nullptr || lines->database.empty())
    return usage_error(fmt::format(
        "the lines of {} are not in a database. Import them with pear-thread import {}, and ask the daybook.",
        file_of(plan), file_of(plan)));
  for (const TableKind kind : kAnswering) {
    const intake::TablePlan* table = plan.table(kind);
    if (table == nullptr) continue;
    if (table->from.size() > 1 || table->sources().size() > 1 ||
        table->sources().front().database != lines->database)
      return usage_error(
          fmt::format("{}: {} must be one table or query of the database that has the lines. Import the file "
                      "instead.",
                      file_of(plan), intake::to_text(kind)));
    if (const std::string key = cleaning_key(table->from.front()); !key.empty()) return needs_rows(plan, key);
  }
  if (const std::string key = cleaning_key(plan); !key.empty()) return needs_rows(plan, key);
  return database::parse_database_address(lines->database);
}

OrError<pushdown::Warehouse> warehouse_of(const intake::IntakePlan& plan, pushdown::Session& session) {
  return Finder(plan, session).find();
}

}  // namespace pear::app
