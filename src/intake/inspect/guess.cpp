#include "intake/inspect/guess.hpp"

#include <algorithm>
#include <array>
#include <map>
#include <set>
#include <utility>

#include <fmt/format.h>

#include "base/text.hpp"
#include "intake/inspect/guess_formats.hpp"
#include "intake/plan/usual_names.hpp"
#include "intake/read/table_columns.hpp"

namespace pear::intake {
namespace {

/// By role, the column of a source whose name fits best.
std::array<std::optional<std::size_t>, kRoles> named_roles(const SourceProfile& source) {
  std::array<std::optional<std::size_t>, kRoles> found{};
  for (std::size_t role = 0; role < kRoles; ++role) {
    std::optional<std::size_t> best;
    for (std::size_t column = 0; column < source.columns.size(); ++column) {
      const auto rank = name_rank(role, source.columns[column].header);
      if (!rank || (best && *rank >= *best) || !holds(source.columns[column], roles().at(role).kind))
        continue;
      best = *rank;
      found.at(role) = column;
    }
  }
  return found;
}

std::size_t index_of(std::string_view name) {
  for (std::size_t i = 0; i < kRoles; ++i) {
    if (roles().at(i).name == name) return i;
  }
  return kRoles;
}

/// Nothing if no column has a distinctive role.
std::optional<TableKind> kind_of(const SourceProfile& source) {
  const auto found = named_roles(source);
  const auto has = [&](std::string_view role) { return found.at(index_of(role)).has_value(); };
  if (has(daybook::role::kProductId) && (has(daybook::role::kOrderId) || has(daybook::role::kQuantity)))
    return TableKind::lines;
  if (has(daybook::role::kQuantity)) return TableKind::lines;
  if (has(daybook::role::kOrderId)) return TableKind::orders;
  if (has(daybook::role::kProductId) && has(daybook::role::kValidFrom)) return TableKind::prices;
  if (has(daybook::role::kProductId)) return TableKind::products;
  if (has(daybook::role::kCustomerId)) return TableKind::customers;
  return std::nullopt;
}

/// Of the rows of `many`, how many have a value that `one` has.
std::uint64_t shared_rows(const ColumnProfile& many, const ColumnProfile& one) {
  std::uint64_t rows = 0;
  for (const auto& [hash, count] : many.values) rows += one.values.contains(hash) ? count : 0;
  return rows;
}

class Guesser {
 public:
  explicit Guesser(const std::vector<SourceProfile>& profiles) : profiles_(profiles) {}

  Guess run() {
    choose_tables();
    for (GuessedTable& table : guess_.tables) name_columns(table);
    find_missing_keys();
    for (GuessedTable& table : guess_.tables) {
      guess_formats(table, first(table), guess_.questions);
      find_cleaning(table);
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

  /// Sources with the same header, on the same line, are one table; of others that seem to be the same table,
  /// the larger one is used.
  void choose_tables() {
    std::vector<std::size_t> order(profiles_.size());
    for (std::size_t i = 0; i < order.size(); ++i) order[i] = i;
    std::stable_sort(order.begin(), order.end(),
                     [&](std::size_t a, std::size_t b) { return profiles_[a].rows > profiles_[b].rows; });
    for (const std::size_t source : order) {
      const auto kind = profiles_.size() == 1 ? std::optional(TableKind::lines) : kind_of(profiles_[source]);
      GuessedTable* known = kind ? table_of(*kind) : nullptr;
      if (!kind) {
        guess_.unused.push_back(source);
      } else if (known == nullptr) {
        guess_.tables.push_back({*kind, {source}, {}, {}, {}, {}, {}});
      } else if (same_header(first(*known), profiles_[source])) {
        known->sources.push_back(source);
      } else {
        guess_.unused.push_back(source);
      }
    }
    for (GuessedTable& table : guess_.tables) std::sort(table.sources.begin(), table.sources.end());
    std::sort(guess_.tables.begin(), guess_.tables.end(),
              [](const GuessedTable& a, const GuessedTable& b) { return a.kind < b.kind; });
  }

  static bool same_header(const SourceProfile& a, const SourceProfile& b) {
    return a.address.header_line == b.address.header_line &&
           std::equal(a.columns.begin(), a.columns.end(), b.columns.begin(), b.columns.end(),
                      [](const ColumnProfile& x, const ColumnProfile& y) { return x.header == y.header; });
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
      GuessedTable* many = table_of(many_kind);
      GuessedTable* one = table_of(one_kind);
      if (many == nullptr || one == nullptr) continue;
      const bool by_orders =
          role == daybook::role::kCustomerId && many_kind == TableKind::lines && table_of(TableKind::orders);
      if (!by_orders && (!role_column(*many, role) || !role_column(*one, role)))
        find_key(*many, *one, std::string(role));
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
    if (best == 0) return;
    const std::string why = fmt::format(
        "{} of {} have a value that also occurs in {}", with_thousands(static_cast<std::int64_t>(best)),
        counted(first(many).columns[place.first].filled(), "row"), to_text(one.kind));
    const auto assign = [&](GuessedColumn& column) {
      if (column.is_role) return;
      column.name = role;
      column.is_role = true;
      column.why = why;
    };
    assign(many.columns[place.first]);
    assign(one.columns[place.second]);
  }

  /// A column may take the role if it has none, or has this one; and no other column of the table has it.
  static bool free_for(const GuessedTable& table, std::size_t column, const std::string& role) {
    const auto taken = role_column(table, role);
    return taken ? *taken == column : !table.columns[column].is_role;
  }

  void find_cleaning(GuessedTable& table) {
    for (std::size_t i = 0; i < table.columns.size(); ++i) {
      const ColumnProfile& column = first(table).columns[i];
      const std::string& name = table.columns[i].name;
      if (name.empty()) continue;
      if (column.spaced > 0) table.trim.push_back(name);
      if (column.case_variants > 0) table.fold_case.push_back(name);
    }
  }

  void find_missing_roles() {
    const GuessedTable* lines = table_of(TableKind::lines);
    const GuessedTable* orders = table_of(TableKind::orders);
    for (const RoleInfo& role : roles()) {
      const bool in_lines = lines != nullptr && role_column(*lines, role.name);
      const bool in_orders =
          orders != nullptr && role_column(*orders, role.name) && role.name != daybook::role::kOrderId;
      if (role.needed && !in_lines && !in_orders) guess_.missing.emplace_back(role.name);
    }
  }

  const std::vector<SourceProfile>& profiles_;
  Guess guess_;
};

}  // namespace

Guess guess_tables(const std::vector<SourceProfile>& profiles) { return Guesser(profiles).run(); }

}  // namespace pear::intake
