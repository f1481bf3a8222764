#include "questions/crosstab/tables.hpp"

#include <algorithm>
#include <limits>
#include <utility>

#include <fmt/format.h>

#include "analysis/tables/table_builder.hpp"
#include "analysis/time_keys.hpp"
#include "base/text.hpp"

namespace pear::crosstab {
namespace {

using Kind = ShownValue::Kind;

std::string text_of(const Crosstab& crosstab, const ShownValue& shown, const ShownCell& cell) {
  if (!cell.filled) return "";
  const expression::ValueType type = crosstab.figures()[shown.figure].type();
  if (type == expression::ValueType::text) return std::string(cell.text);
  if (type == expression::ValueType::truth) return cell.number != 0 ? "true" : "false";
  return time_of_day_text(static_cast<std::int32_t>(cell.number));
}

std::string description_of(const Crosstab& crosstab, const ShownValue& shown) {
  const std::string text = crosstab.options().figures[shown.figure].text;
  const std::string_view whole = shown.share_of == ShareOf::row      ? "its row"
                                 : shown.share_of == ShareOf::column ? "its column"
                                 : shown.share_of == ShareOf::parent ? "the row above it"
                                                                     : "the whole";
  switch (shown.kind) {
    case Kind::figure:
      return text;
    case Kind::share:
      return fmt::format("{} as a share of {}", text, whole);
    case Kind::against:
      return shown.depth ? fmt::format("{} divided by that of the {} above it", text,
                                       crosstab.down().names[*shown.depth - 1])
                         : fmt::format("{} divided by that of {}", text, whole);
    case Kind::growth:
      return fmt::format("{}: growth compared with the period before", text);
    case Kind::points:
      return fmt::format("{}: change of its share of {} compared with the period before, in points", text,
                         whole);
    case Kind::running:
      return fmt::format("{}, cumulative {}", text,
                         crosstab.options().running == Direction::down ? "down" : "across");
    case Kind::cumulative_share:
      break;
  }
  return fmt::format("{}, cumulative, as a share of the last", text);
}

/// A column of a shown value; cell_of(row) is the place down and the place across of a row.
template <class Builder, class CellOf>
result::TableColumn& add_value(Builder& builder, const Crosstab& crosstab, const ShownValue& shown,
                               const std::string& name, const CellOf& cell_of) {
  const auto value = [&](const auto& row) {
    const auto [down, across] = cell_of(row);
    return crosstab.value(shown, down, across);
  };
  const std::string description = description_of(crosstab, shown);
  const double empty = std::numeric_limits<double>::quiet_NaN();
  if (shown.kind == Kind::points)
    return builder.number(name, description, 1, [&](const auto& row) {
      const ShownCell cell = value(row);
      return cell.filled ? 100 * cell.share : empty;
    });
  if (shown.is_share())
    return builder.share(name, description, [&](const auto& row) {
      const ShownCell cell = value(row);
      return cell.filled ? cell.share : empty;
    });
  const result::Unit unit = crosstab.unit(shown.figure);
  result::TableColumn& column =
      unit == result::Unit::text
          ? builder.text(name, description,
                         [&](const auto& row) { return text_of(crosstab, shown, value(row)); })
          : builder.integer(unit, name, description, [&](const auto& row) {
              const ShownCell cell = value(row);
              if (!cell.filled) return result::kEmptyCell;
              return unit == result::Unit::count ? cell.number / Decimal::kScale : cell.number;
            });
  column.places = crosstab.places(shown.figure);
  return column;
}

/// Rows in reading order: children first, then their total.
void rows_of(const Axis& axis, std::uint32_t place, std::vector<std::uint32_t>& rows) {
  for (const std::uint32_t child : axis.places[place].children) rows_of(axis, child, rows);
  rows.push_back(place);
}

/// The word for totals; a different one if a value has the same name.
std::string total_word(const Axis& axis) {
  for (const AxisPlace& place : axis.places) {
    if (place.depth > 0 && place.label == "Total") return "(Total)";
  }
  return "Total";
}

/// The label of a row at a depth; the word for totals at the first depth that it does not have.
std::string row_label(const Axis& down, std::uint32_t row, std::size_t depth, const std::string& total) {
  if (const auto above = down.ancestor(row, depth)) return down.places[*above].label;
  return depth == down.places[row].depth + 1 && !down.places[row].is_other ? total : "";
}

/// Next to the figure that it belongs to.
std::string short_name(const Crosstab& crosstab, const ShownValue& shown) {
  if (crosstab.options().shares_only) return shown.name;
  switch (shown.kind) {
    case Kind::figure:
      return shown.name;
    case Kind::share:
      return fmt::format("of {}", word_of(shown.share_of));
    case Kind::against:  // without the figure's name in front
      return shown.name.substr(crosstab.figures()[shown.figure].name().size() + 1);
    case Kind::growth:
      return "growth";
    case Kind::points:
      return "points";
    case Kind::running:
      return "running";
    case Kind::cumulative_share:
      break;
  }
  return "cumulative %";
}

/// "2024 / web"
std::string place_label(const Axis& axis, std::uint32_t place) {
  std::vector<std::string> labels = axis.labels(place);
  if (labels.size() < axis.depth() && !axis.places[place].is_other) labels.push_back(total_word(axis));
  return join(labels, " / ");
}

/// The place, and the figure if there are several.
std::string column_name(const Crosstab& crosstab, const ShownValue& shown, std::uint32_t across) {
  const Axis& axis = crosstab.across();
  if (axis.depth() == 0) return shown.name;
  const std::string place = place_label(axis, across);
  return crosstab.shown().size() == 1 ? place : fmt::format("{} {}", place, shown.name);
}

std::string list_of(const std::vector<std::string>& names) {
  if (names.size() < 2) return names.empty() ? "" : names.front();
  return join(std::span(names).first(names.size() - 1), ", ") + " and " + names.back();
}

std::string title_of(const Crosstab& crosstab, const std::string& currency) {
  std::vector<std::string> figures;
  for (const ShownValue& shown : crosstab.shown()) {
    if (shown.kind != Kind::figure && !crosstab.options().shares_only) continue;
    std::string name = shown.name;
    const bool money = crosstab.unit(shown.figure) == result::Unit::money && shown.kind == Kind::figure;
    if (money && !currency.empty()) name += fmt::format(" ({})", currency);
    figures.push_back(std::move(name));
  }
  std::string title = list_of(figures);
  if (crosstab.down().depth() > 0) title += " by " + list_of(crosstab.down().names);
  if (crosstab.across().depth() > 0) title += ", across " + list_of(crosstab.across().names);
  return title;
}

/// Whether a column has any value: a total, and the first period, cannot be compared with one before.
bool has_value(const Crosstab& crosstab, const ShownValue& shown, std::uint32_t across) {
  const bool compares = shown.kind == Kind::growth || shown.kind == Kind::points;
  return !compares || crosstab.growth()->is_down || crosstab.growth()->previous[across] != Growth::kNone;
}

void cut_page(std::vector<std::uint32_t>& rows, const Options& options) {
  const std::size_t body = rows.size() - 1;  // the total always comes last
  const std::size_t begin = std::min(body, static_cast<std::size_t>(options.offset));
  const std::size_t count = options.limit ? static_cast<std::size_t>(*options.limit) : body;
  const std::size_t end = std::min(body, begin + count);
  std::vector<std::uint32_t> page(rows.begin() + static_cast<std::ptrdiff_t>(begin),
                                  rows.begin() + static_cast<std::ptrdiff_t>(end));
  page.push_back(rows.back());
  rows = std::move(page);
}

}  // namespace

result::Table wide_table(const Crosstab& crosstab, const std::string& currency) {
  const Axis& down = crosstab.down();
  std::vector<std::uint32_t> rows;
  rows_of(down, 0, rows);
  cut_page(rows, crosstab.options());
  std::vector<std::uint32_t> across;
  rows_of(crosstab.across(), 0, across);
  result::Table table;
  table.title = title_of(crosstab, currency);
  table.description = "One row for each value down, with totals computed from their own lines.";
  const Options& options = crosstab.options();
  table.rows_by_time = down.depth() == 1 && analysis::is_time(down.keys[0]) && options.sort.empty() &&
                       !options.keep && !options.limit;
  table.columns_by_time = crosstab.across().depth() > 0 && analysis::is_time(crosstab.across().keys[0]);
  analysis::TableBuilder builder(table, rows);
  const std::string total = total_word(down);
  for (std::size_t i = 0; i < down.depth(); ++i) {
    result::TableColumn& column =
        builder.text(down.names[i], fmt::format("{}; {} for totals.", down.names[i], total),
                     [&](std::uint32_t row) { return row_label(down, row, i + 1, total); });
    column.always_shown = true;
    column.id_of = analysis::id_of(down.keys[i].source);
  }
  for (std::size_t i = 0; i < rows.size() && down.depth() > 0; ++i) {
    if (!down.places[rows[i]].is_leaf() || rows[i] == 0) table.totals.push_back(i);
  }
  for (const std::uint32_t place : across) {
    for (const ShownValue& shown : crosstab.shown()) {
      if (!has_value(crosstab, shown, place)) continue;
      result::TableColumn& column = add_value(builder, crosstab, shown, column_name(crosstab, shown, place),
                                              [&](std::uint32_t row) { return std::pair(row, place); });
      column.always_shown = place == 0;
      if (shown.kind != Kind::figure) column.heading = short_name(crosstab, shown);
      if (crosstab.across().depth() > 0 && crosstab.shown().size() > 1) {
        column.group = place_label(crosstab.across(), place);
        column.heading = short_name(crosstab, shown);
      }
    }
  }
  return table;
}

bool repeats_main_table(const Crosstab& crosstab) {
  const Options& options = crosstab.options();
  return crosstab.across().depth() == 0 && crosstab.down().depth() <= 1 && !options.limit &&
         options.offset == 0;
}

result::Table long_table(const Crosstab& crosstab) {
  const Axis& down = crosstab.down();
  const Axis& across = crosstab.across();
  result::Table table;
  table.part = "long";
  table.title = "One row a cell";
  table.description = "One row for each cell that has lines, without totals.";
  table.most_shown = 0;
  std::vector<std::pair<std::uint32_t, std::uint32_t>> cells;
  const std::vector<std::uint32_t> columns = across.leaves();
  for (const std::uint32_t row : down.leaves()) {
    for (const std::uint32_t column : columns) {
      if (crosstab.figure(0, row, column).has_lines) cells.emplace_back(row, column);
    }
  }
  analysis::TableBuilder builder(table, cells);
  for (const Axis* axis : {&down, &across})
    for (std::size_t i = 0; i < axis->depth(); ++i)
      builder
          .text(axis->names[i], axis->names[i] + ".",
                [&](const auto& cell) {
                  const auto place = axis->ancestor(axis == &down ? cell.first : cell.second, i + 1);
                  return place ? axis->places[*place].label : "";
                })
          .id_of = analysis::id_of(axis->keys[i].source);
  for (const ShownValue& shown : crosstab.shown())
    add_value(builder, crosstab, shown, shown.name, [](const auto& cell) { return cell; });
  return table;
}

}  // namespace pear::crosstab
