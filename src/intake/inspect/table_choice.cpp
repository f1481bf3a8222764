#include "intake/inspect/table_choice.hpp"

#include <algorithm>
#include <numeric>

#include "intake/inspect/guess_formats.hpp"
#include "intake/plan/usual_names.hpp"

namespace pear::intake {
namespace {

/// Whether most values occur once, as those of the key of a list do; customers may have older rows.
bool is_list_of(const ColumnProfile& column) { return column.values.size() * 10 >= column.filled() * 6; }

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
  const auto customer = found.at(index_of(daybook::role::kCustomerId));
  if (customer && is_list_of(source.columns[*customer])) return TableKind::customers;
  return std::nullopt;
}

bool same_header(const SourceProfile& a, const SourceProfile& b) {
  return std::equal(a.columns.begin(), a.columns.end(), b.columns.begin(), b.columns.end(),
                    [](const ColumnProfile& x, const ColumnProfile& y) { return x.header == y.header; });
}

/// Whether one [TABLE] can describe both: the header is on the same line, and numbers are written alike.
bool same_form(const SourceProfile& a, const SourceProfile& b) {
  if (!same_header(a, b) || a.address.header_line != b.address.header_line) return false;
  GuessedTable forms[2];
  const SourceProfile* sources[] = {&a, &b};
  bool has_decimals[2] = {false, false};
  for (std::size_t i = 0; i < 2; ++i) {
    std::vector<OpenQuestion> questions;
    for (const ColumnProfile& column : sources[i]->columns) {
      forms[i].columns.push_back({column.header, "", false, ""});
      has_decimals[i] |= holds(column, ColumnKind::number) &&
                         column.point_decimals + column.comma_decimals > 0 && column.leading_zeros == 0;
    }
    guess_formats(forms[i], *sources[i], questions);
  }
  return !has_decimals[0] || !has_decimals[1] || forms[0].numbers.decimal == forms[1].numbers.decimal;
}

class Chooser {
 public:
  explicit Chooser(const std::vector<SourceProfile>& profiles) : profiles_(profiles) {}

  TableChoice run() {
    std::vector<std::size_t> order(profiles_.size());
    std::iota(order.begin(), order.end(), std::size_t{0});
    std::stable_sort(order.begin(), order.end(),
                     [&](std::size_t a, std::size_t b) { return profiles_[a].rows > profiles_[b].rows; });
    for (const std::size_t source : order) {
      const auto kind = profiles_.size() == 1 ? std::optional(TableKind::lines) : kind_of(profiles_[source]);
      if (!kind || !place(*kind, source)) choice_.unused.push_back(source);
    }
    for (GuessedTable& table : choice_.tables) std::sort(table.sources.begin(), table.sources.end());
    std::stable_sort(choice_.tables.begin(), choice_.tables.end(),
                     [](const GuessedTable& a, const GuessedTable& b) { return a.kind < b.kind; });
    return std::move(choice_);
  }

 private:
  bool place(TableKind kind, std::size_t source) {
    bool is_new_system = true;
    for (GuessedTable& table : choice_.tables) {
      if (table.kind != kind) continue;
      const SourceProfile& first = profiles_[table.sources.front()];
      if (same_form(first, profiles_[source])) {
        table.sources.push_back(source);
        return true;
      }
      // The same columns in another form are next month's export, which may contain orders again.
      is_new_system &=
          same_header(first, profiles_[source]) || have_other_ids(kind, first, profiles_[source]);
    }
    if (is_new_system) choice_.tables.push_back({kind, {source}, {}, {}, {}, {}, {}, {}});
    return is_new_system;
  }

  const std::vector<SourceProfile>& profiles_;
  TableChoice choice_;
};

}  // namespace

NamedRoles named_roles(const SourceProfile& source) {
  NamedRoles found{};
  for (std::size_t role = 0; role < kRoles; ++role) {
    std::optional<std::size_t> best;
    for (std::size_t column = 0; column < source.columns.size(); ++column) {
      const auto rank = name_rank(role, source.columns[column].header);
      if (!rank || (best && *rank >= *best)) continue;
      if (source.rows > 0 && !holds(source.columns[column], roles().at(role).kind)) continue;
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

TableChoice choose_tables(const std::vector<SourceProfile>& profiles) { return Chooser(profiles).run(); }

bool have_other_ids(TableKind kind, const SourceProfile& a, const SourceProfile& b) {
  const std::string_view role = kind == TableKind::lines || kind == TableKind::orders
                                    ? daybook::role::kOrderId
                                : kind == TableKind::customers ? daybook::role::kCustomerId
                                                               : daybook::role::kProductId;
  const auto of_a = named_roles(a).at(index_of(role)), of_b = named_roles(b).at(index_of(role));
  if (!of_a || !of_b) return false;
  const auto& ids = b.columns[*of_b].values;
  std::size_t shared = 0;
  for (const auto& [hash, rows] : ids)
    if (a.columns[*of_a].values.contains(hash)) ++shared;
  return shared * 2 < std::max<std::size_t>(1, ids.size());
}

}  // namespace pear::intake
