#include "intake/clean/duplicates.hpp"

#include <algorithm>
#include <numeric>
#include <optional>

#include <absl/container/flat_hash_map.h>
#include <fmt/format.h>

#include "base/natural_order.hpp"
#include "base/pair_key.hpp"
#include "base/text.hpp"
#include "expression/expression.hpp"

namespace pear::intake {
namespace {

tl::unexpected<Error> in_rule(const DuplicateRule& rule, const Error& error) {
  return data_error(fmt::format("[[duplicates]] in {}: {}", to_text(rule.table), error.message));
}

OrError<expression::Expression> compiled(const DuplicateRule& rule, const std::string& text,
                                         const expression::RowView& view) {
  auto expression = expression::Expression::compile(text, view);
  if (!expression) return in_rule(rule, expression.error());
  return expression;
}

/// The single values of one expression, for few rows.
OrError<std::string> text_at(const expression::Expression& expression, const expression::RowView& view,
                             std::size_t row) {
  PEAR_ASSIGN(const expression::Values values, expression.evaluate_checked(view, row, row + 1));
  return expression::value_text(values, 0);
}

/// Per row a number that is equal for equal rows; nothing if an expression is empty.
OrError<std::vector<std::uint32_t>> keys_of(const std::vector<expression::Expression>& same,
                                            const expression::RowView& view) {
  std::vector<std::uint32_t> keys(view.rows, 0);
  for (const expression::Expression& expression : same) {
    PEAR_ASSIGN(const std::vector<std::uint32_t> codes, expression::codes_of(expression, view));
    absl::flat_hash_map<std::uint64_t, std::uint32_t> pairs;
    for (std::size_t row = 0; row < view.rows; ++row) {
      if (keys[row] == daybook::kEmptyCode || codes[row] == daybook::kEmptyCode) {
        keys[row] = daybook::kEmptyCode;
        continue;
      }
      const std::uint64_t pair = pair_key(keys[row], codes[row]);
      keys[row] = pairs.try_emplace(pair, static_cast<std::uint32_t>(pairs.size())).first->second;
    }
  }
  return keys;
}

/// The rows of each group of two or more, groups in order of their first row.
std::vector<std::vector<std::uint32_t>> groups_of(const std::vector<std::uint32_t>& keys) {
  std::uint32_t distinct = 0;
  for (const std::uint32_t key : keys)
    distinct = std::max(distinct, key == daybook::kEmptyCode ? 0 : key + 1);
  std::vector<std::uint32_t> rows_of_key(distinct);
  for (const std::uint32_t key : keys) {
    if (key != daybook::kEmptyCode) ++rows_of_key[key];
  }
  absl::flat_hash_map<std::uint32_t, std::size_t> place;
  std::vector<std::vector<std::uint32_t>> groups;
  for (std::uint32_t row = 0; row < keys.size(); ++row) {
    if (keys[row] == daybook::kEmptyCode || rows_of_key[keys[row]] < 2) continue;
    const auto [found, is_new] = place.try_emplace(keys[row], groups.size());
    if (is_new) groups.emplace_back();
    groups[found->second].push_back(row);
  }
  return groups;
}

int order_of(const expression::Values& a, const expression::Values& b) {
  if (a.states[0] != b.states[0])
    return a.states[0] == expression::ValueState::filled ? -1 : 1;  // empty ones last
  if (a.states[0] != expression::ValueState::filled) return 0;
  if (a.type == expression::ValueType::text) {
    const auto order = natural_compare(a.texts[0], b.texts[0]);
    return order < 0 ? -1 : order > 0 ? 1 : 0;
  }
  return a.numbers[0] < b.numbers[0] ? -1 : a.numbers[0] > b.numbers[0] ? 1 : 0;
}

/// Puts the row to keep first, and the others after it in the order of the rule.
void rank(std::vector<std::uint32_t>& rows, const std::optional<expression::Expression>& by, bool last,
          const expression::RowView& view) {
  if (by) {
    std::vector<expression::Values> values;
    for (const std::uint32_t row : rows) values.push_back(by->evaluate(view, row, row + 1));
    std::vector<std::size_t> places(rows.size());
    std::iota(places.begin(), places.end(), std::size_t{0});
    std::stable_sort(places.begin(), places.end(),
                     [&](std::size_t a, std::size_t b) { return order_of(values[a], values[b]) < 0; });
    std::vector<std::uint32_t> sorted;
    for (const std::size_t place : places) sorted.push_back(rows[place]);
    rows = std::move(sorted);
  }
  if (last) std::rotate(rows.begin(), rows.end() - 1, rows.end());
}

void count_dropped(RawTable& table, std::size_t row) {
  SourceAccount& account = table.sources[table.source_of(row)];
  ++account.record.rows_duplicate;
  --account.record.rows_kept;
  if (table.kind != TableKind::lines) return;
  const auto& amounts = std::get<daybook::DecimalValues>(table.find(daybook::role::kAmount)->values).units;
  account.duplicate_amount.add(Decimal::from_units(amounts[row]));
}

}  // namespace

OrError<void> drop_duplicates(const DuplicateRule& rule, std::size_t number, RawTable& table,
                              std::vector<DuplicateRow>& found) {
  const expression::RowView view = table.view();
  std::vector<expression::Expression> same;
  for (const std::string& text : rule.same) {
    PEAR_ASSIGN(expression::Expression expression, compiled(rule, text, view));
    same.push_back(std::move(expression));
  }
  std::optional<expression::Expression> by;
  if (!rule.by.empty()) {
    PEAR_ASSIGN(by, compiled(rule, rule.by, view));
  }
  auto keys = keys_of(same, view);
  if (!keys) return in_rule(rule, keys.error());
  std::uint64_t group = found.empty() ? 0 : found.back().group;
  std::vector<std::uint8_t> stays(table.rows(), 1);
  for (std::vector<std::uint32_t>& rows : groups_of(*keys)) {
    rank(rows, by, rule.keep_last, view);
    ++group;
    std::vector<std::string> values;
    for (const expression::Expression& expression : same) {
      PEAR_ASSIGN(std::string text, text_at(expression, view, rows.front()));
      values.push_back(std::move(text));
    }
    for (std::size_t i = 0; i < rows.size(); ++i) {
      const std::uint32_t row = rows[i];
      DuplicateRow duplicate{rule.table,
                             group,
                             i + 1,
                             table.sources[table.source_of(row)].record.name,
                             table.lines[row],
                             join(values, " | "),
                             "",
                             number};
      if (by) {
        PEAR_ASSIGN(duplicate.by, text_at(*by, view, row));
      }
      found.push_back(std::move(duplicate));
      if (i == 0) continue;
      stays[row] = 0;
      count_dropped(table, row);
    }
  }
  table.keep(stays);
  return {};
}

}  // namespace pear::intake
