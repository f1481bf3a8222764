#include "intake/inspect/guess.hpp"

#include <algorithm>
#include <array>
#include <map>
#include <optional>
#include <utility>

#include <fmt/format.h>

#include "base/text.hpp"
#include "intake/inspect/guess_formats.hpp"
#include "intake/inspect/joined_profile.hpp"
#include "intake/inspect/key_search.hpp"
#include "intake/inspect/member_names.hpp"
#include "intake/inspect/roles_by_values.hpp"
#include "intake/inspect/table_choice.hpp"
#include "intake/read/table_columns.hpp"

namespace pear::intake {
namespace {

class Guesser {
 public:
  explicit Guesser(const std::vector<SourceProfile>& profiles) : profiles_(profiles) {}

  Guess run() {
    TableChoice choice = choose_tables(profiles_);
    guess_.tables = std::move(choice.tables);
    guess_.unused = std::move(choice.unused);
    for (GuessedTable& table : guess_.tables) name_columns(table);
    if (table_of(TableKind::lines) == nullptr) find_lines();
    find_orders_among_customers();
    find_missing_keys();
    adopt_lists();
    for (GuessedTable& table : guess_.tables) add_roles_by_values(table);
    adopt_other_systems();
    std::stable_sort(guess_.tables.begin(), guess_.tables.end(),
                     [](const GuessedTable& a, const GuessedTable& b) { return a.kind < b.kind; });
    find_member_names(guess_.tables, profiles_);
    for (GuessedTable& table : guess_.tables) {
      std::vector<const SourceProfile*> sources;
      for (const std::size_t source : table.sources) sources.push_back(&profiles_[source]);
      const SourceProfile all = joined_profile(sources);
      guess_formats(table, all, guess_.questions);
      find_cleaning(table, all);
    }
    find_missing_roles();
    return std::move(guess_);
  }

 private:
  [[nodiscard]] const SourceProfile& first(const GuessedTable& table) const {
    return profiles_[table.sources.front()];
  }

  GuessedTable* table_of(TableKind kind) {
    for (GuessedTable& table : guess_.tables) {
      if (table.kind == kind) return &table;
    }
    return nullptr;
  }

  std::vector<std::size_t> tables_of(TableKind kind) const {
    std::vector<std::size_t> places;
    for (std::size_t i = 0; i < guess_.tables.size(); ++i)
      if (guess_.tables[i].kind == kind) places.push_back(i);
    return places;
  }

  GuessedTable& adopt(TableKind kind, std::size_t source) {
    std::erase(guess_.unused, source);
    guess_.tables.push_back({kind, {source}, {}, {}, {}, {}, {}, {}});
    name_columns(guess_.tables.back());
    return guess_.tables.back();
  }

  /// No names say which source is the lines: it is the largest in which quantity and price are recognised,
  /// otherwise the largest whose values occur in a column of another source where each is unique.
  void find_lines() {
    std::optional<std::size_t> best;
    bool best_has_quantity = false;
    for (const std::size_t source : guess_.unused) {
      const bool has_quantity = has_role(roles_by_values(profiles_[source], {}), daybook::role::kQuantity);
      if (!has_quantity && !refers_to_others(source)) continue;
      const bool is_better =
          !best || (has_quantity && !best_has_quantity) ||
          (has_quantity == best_has_quantity && profiles_[source].rows > profiles_[*best].rows);
      if (!is_better) continue;
      best = source;
      best_has_quantity = has_quantity;
    }
    if (best) adopt(TableKind::lines, *best);
  }

  static bool has_role(const std::vector<ValueRole>& found, std::string_view role) {
    return std::any_of(found.begin(), found.end(), [&](const ValueRole& each) { return each.role == role; });
  }

  bool refers_to_others(std::size_t source) const {
    for (const std::size_t other : guess_.unused)
      if (other != source && key_between(profiles_[source], profiles_[other])) return true;
    return false;
  }

  /// A source in which only the customer has a usual name may be the orders: it has the lines' order ids.
  void find_orders_among_customers() {
    const GuessedTable* lines = table_of(TableKind::lines);
    const auto order = lines == nullptr ? std::nullopt : role_column(*lines, daybook::role::kOrderId);
    if (!order || table_of(TableKind::orders) != nullptr) return;
    const ColumnProfile& ids = first(*lines).columns[*order];
    for (GuessedTable& table : guess_.tables) {
      const SourceProfile& source = first(table);
      for (std::size_t i = 0; table.kind == TableKind::customers && i < source.columns.size(); ++i) {
        const ColumnProfile& column = source.columns[i];
        const std::uint64_t rows = shared_rows(ids, column);
        if (table.columns[i].is_role || column.values.size() < column.filled() || rows * 2 < ids.filled())
          continue;
        table.kind = TableKind::orders;
        table.columns.clear();
        name_columns(table);
        assign_key(*table_of(TableKind::lines), table, {*order, i, rows},
                   std::string(daybook::role::kOrderId));
      }
    }
  }

  /// Sources whose names say nothing, but whose unique column has the orders, products or customers of the
  /// lines.
  void adopt_lists() {
    for (const bool with_orders : {true, false}) {
      const std::vector<std::size_t> unused = guess_.unused;
      for (const std::size_t source : unused) {
        for (std::size_t i = 0; i < guess_.tables.size(); ++i) {
          if (guess_.tables[i].kind != TableKind::lines && guess_.tables[i].kind != TableKind::orders)
            continue;
          if (adopt_list(i, source, with_orders)) break;
        }
      }
    }
  }

  bool adopt_list(std::size_t many, std::size_t source, bool only_orders) {
    const auto key = key_between(first(guess_.tables[many]), profiles_[source]);
    if (!key) return false;
    const auto kind = kind_of_list(guess_.tables[many], *key, profiles_[source]);
    if (!kind || (*kind == TableKind::orders) != only_orders || table_of(*kind) != nullptr) return false;
    GuessedTable& one = adopt(*kind, source);
    const std::string_view role = *kind == TableKind::orders     ? daybook::role::kOrderId
                                  : *kind == TableKind::products ? daybook::role::kProductId
                                                                 : daybook::role::kCustomerId;
    assign_key(guess_.tables[many], one, *key, std::string(role));
    if (*kind == TableKind::orders) add_roles_by_values(one);
    return true;
  }

  /// By the role of the key, otherwise: orders have a date that the lines lack; an order has one customer,
  /// and several products.
  std::optional<TableKind> kind_of_list(const GuessedTable& many, const Key& key,
                                        const SourceProfile& list) const {
    const GuessedColumn& column = many.columns[key.ours];
    if (column.is_role) {
      if (column.name == daybook::role::kOrderId) return TableKind::orders;
      if (column.name == daybook::role::kProductId) return TableKind::products;
      if (column.name == daybook::role::kCustomerId) return TableKind::customers;
      return std::nullopt;
    }
    if (many.kind == TableKind::orders) return TableKind::customers;
    const bool has_date = std::any_of(
        list.columns.begin(), list.columns.end(),
        [](const ColumnProfile& each) { return each.filled() > 0 && each.dates * 10 > each.filled() * 9; });
    if (has_date && !role_column(many, daybook::role::kOrderDate)) return TableKind::orders;
    const auto found = roles_by_values(first(many), known_roles(many));
    for (const ValueRole& each : found)
      if (each.column == key.ours && each.role == daybook::role::kCustomerId) return TableKind::customers;
    return TableKind::products;
  }

  std::map<std::string_view, std::size_t> known_roles(const GuessedTable& table) const {
    std::map<std::string_view, std::size_t> known;
    for (std::size_t i = 0; i < table.columns.size(); ++i)
      if (table.columns[i].is_role) known[roles().at(index_of(table.columns[i].name)).name] = i;
    return known;
  }

  /// Roles that no name and no other table shows.
  void add_roles_by_values(GuessedTable& table) {
    if (table.kind != TableKind::lines && table.kind != TableKind::orders) return;
    for (const ValueRole& found : roles_by_values(first(table), known_roles(table))) {
      if (!roles().at(index_of(found.role)).may_stand_in.at(static_cast<std::size_t>(table.kind))) continue;
      const bool in_orders = table.kind == TableKind::lines && table_of(TableKind::orders) != nullptr &&
                             role_column(*table_of(TableKind::orders), found.role) &&
                             found.role != daybook::role::kOrderId;
      GuessedColumn& column = table.columns[found.column];
      if (in_orders || column.is_role) continue;
      column.name = found.role;
      column.is_role = true;
      column.why = found.why;
    }
  }

  /// Sources with everything that lines need, of another system.
  void adopt_other_systems() {
    const std::vector<std::size_t> unused = guess_.unused;
    for (const std::size_t source : unused) {
      const auto found = roles_by_values(profiles_[source], {});
      const bool is_complete = std::all_of(roles().begin(), roles().end(), [&](const RoleInfo& role) {
        return !role.needed || has_role(found, role.name);
      });
      if (is_complete) add_roles_by_values(adopt(TableKind::lines, source));
    }
  }

  void name_columns(GuessedTable& table) {
    const SourceProfile& source = first(table);
    auto found = named_roles(source);
    if (table.kind == TableKind::prices &&
        !found.at(index_of(daybook::role::kListPrice)))  // "price" says enough there
      found.at(index_of(daybook::role::kListPrice)) = found.at(index_of(daybook::role::kUnitPrice));
    for (const ColumnProfile& column : source.columns)
      table.columns.push_back({column.header, plain_name(table.kind, column.header), false, ""});
    for (std::size_t role = 0; role < kRoles; ++role) {
      if (!found.at(role) || !roles().at(role).may_stand_in.at(static_cast<std::size_t>(table.kind)))
        continue;
      GuessedColumn& column = table.columns[*found.at(role)];
      if (column.is_role) continue;
      column.name = roles().at(role).name;
      column.is_role = true;
      column.why = "by its name" + evidence(source.columns[*found.at(role)], table.kind, column.name);
    }
  }

  static std::string evidence(const ColumnProfile& column, TableKind kind, const std::string& role) {
    const bool is_key = (kind == TableKind::orders && role == daybook::role::kOrderId) ||
                        (kind == TableKind::products && role == daybook::role::kProductId) ||
                        (kind == TableKind::customers && role == daybook::role::kCustomerId);
    if (!is_key) return "";
    if (column.is_unique()) return "; each value occurs once";
    return fmt::format("; {} in {}", counted(column.values.size(), "value"), counted(column.filled(), "row"));
  }

  [[nodiscard]] static std::optional<std::size_t> role_column(const GuessedTable& table,
                                                              std::string_view role) {
    for (std::size_t i = 0; i < table.columns.size(); ++i) {
      if (table.columns[i].is_role && table.columns[i].name == role) return i;
    }
    return std::nullopt;
  }

  /// A key without a known name is found by the values that both tables share.
  void find_missing_keys() {
    const std::array<std::tuple<TableKind, TableKind, std::string_view>, 4> links = {
        {{TableKind::lines, TableKind::orders, daybook::role::kOrderId},
         {TableKind::lines, TableKind::products, daybook::role::kProductId},
         {TableKind::orders, TableKind::customers, daybook::role::kCustomerId},
         {TableKind::lines, TableKind::customers, daybook::role::kCustomerId}}};
    for (const auto& [many_kind, one_kind, role] : links) {
      const bool by_orders = role == daybook::role::kCustomerId && many_kind == TableKind::lines &&
                             table_of(TableKind::orders) != nullptr;
      if (by_orders) continue;
      for (const std::size_t many : tables_of(many_kind)) {
        for (const std::size_t one : tables_of(one_kind)) {
          GuessedTable& ours = guess_.tables[many];
          GuessedTable& theirs = guess_.tables[one];
          if (!role_column(ours, role) || !role_column(theirs, role))
            find_key(ours, theirs, std::string(role));
        }
      }
    }
  }

  void find_key(GuessedTable& many, GuessedTable& one, const std::string& role) {
    std::uint64_t best = 0;
    std::pair<std::size_t, std::size_t> place;
    for (std::size_t ours = 0; ours < many.columns.size(); ++ours) {
      for (std::size_t theirs = 0; theirs < one.columns.size(); ++theirs) {
        if (!free_for(many, ours, role) || !free_for(one, theirs, role)) continue;
        const ColumnProfile& other = first(one).columns[theirs];
        if (other.values.size() * 10 < other.filled() * 9) continue;  // a key occurs about once
        const std::uint64_t rows = shared_rows(first(many).columns[ours], other);
        if (rows <= best || rows * 2 < first(many).columns[ours].filled()) continue;
        best = rows;
        place = {ours, theirs};
      }
    }
    if (best > 0) assign_key(many, one, {place.first, place.second, best}, role);
  }

  void assign_key(GuessedTable& many, GuessedTable& one, const Key& key, const std::string& role) {
    const std::string why = fmt::format(
        "{} of {} have a value that also occurs in {}", with_thousands(static_cast<std::int64_t>(key.rows)),
        counted(first(many).columns[key.ours].filled(), "row"), to_text(one.kind));
    const auto assign = [&](GuessedColumn& column) {
      if (column.is_role) return;
      column.name = role;
      column.is_role = true;
      column.why = why;
    };
    assign(many.columns[key.ours]);
    assign(one.columns[key.theirs]);
  }

  /// A column may take the role if it has none, or has this one; and no other column of the table has it.
  static bool free_for(const GuessedTable& table, std::size_t column, const std::string& role) {
    const auto taken = role_column(table, role);
    return taken ? *taken == column : !table.columns[column].is_role;
  }

  static void find_cleaning(GuessedTable& table, const SourceProfile& source) {
    for (std::size_t i = 0; i < table.columns.size(); ++i) {
      const ColumnProfile& column = source.columns[i];
      const std::string& name = table.columns[i].name;
      if (name.empty()) continue;
      if (column.spaced > 0) table.trim.push_back(name);
      if (column.case_variants > 0) table.fold_case.push_back(name);
    }
  }

  void find_missing_roles() {
    const auto has = [&](TableKind kind, std::string_view role) {
      const auto places = tables_of(kind);
      return !places.empty() && std::all_of(places.begin(), places.end(), [&](std::size_t place) {
        return role_column(guess_.tables[place], role).has_value();
      });
    };
    for (const RoleInfo& role : roles()) {
      const bool in_orders = has(TableKind::orders, role.name) && role.name != daybook::role::kOrderId;
      const bool is_computed = role.name == daybook::role::kUnitPrice &&
                               has(TableKind::lines, daybook::role::kAmount) &&
                               has(TableKind::lines, daybook::role::kQuantity);
      if (role.needed && !has(TableKind::lines, role.name) && !in_orders && !is_computed)
        guess_.missing.emplace_back(role.name);
    }
  }

  const std::vector<SourceProfile>& profiles_;
  Guess guess_;
};

}  // namespace

Guess guess_tables(const std::vector<SourceProfile>& profiles) { return Guesser(profiles).run(); }

}  // namespace pear::intake
