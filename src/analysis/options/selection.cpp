#include "analysis/options/selection.hpp"

#include <algorithm>
#include <array>
#include <map>
#include <utility>

#include <fmt/format.h>

#include "base/text.hpp"
#include "daybook/by_customer.hpp"
#include "daybook/walk_lines.hpp"
#include "expression/evaluate/functions.hpp"
#include "expression/expression.hpp"
#include "expression/syntax/parse.hpp"

namespace pear::analysis {

namespace {

OrError<void> set_where(Selection& selection, std::string_view text) {
  auto tree = expression::parse_tree(text);
  if (!tree) return usage_error("--where: " + tree.error().message);
  selection.where = std::move(*tree);
  return {};
}

/// The parts of a condition that are joined by AND, combined again for each level that determines some of
/// them.
OrError<std::map<daybook::Level, expression::Expression>> by_level(const expression::Tree& where,
                                                                   const expression::LineView& lines) {
  const bool joined = where.root.op == expression::Op::both;
  std::map<daybook::Level, expression::Node> nodes;
  const std::vector<expression::Node> whole = {where.root};
  for (const expression::Node& part : joined ? where.root.args : whole) {
    PEAR_ASSIGN(const expression::Expression condition,
                expression::Expression::compile(part, where.text, lines.schema()));
    if (condition.type() != expression::ValueType::truth)
      return usage_error(fmt::format("{} is not a condition (column {})", in_quotes(where.text), part.at));
    expression::Node& all = nodes[expression::LineView::level_for(condition.grain())];
    all.op = expression::Op::both;
    all.args.push_back(part);
  }
  std::map<daybook::Level, expression::Expression> conditions;
  for (const auto& [level, node] : nodes) {
    PEAR_ASSIGN(expression::Expression condition,
                expression::Expression::compile(node, where.text, lines.schema(level)));
    conditions.emplace(level, std::move(condition));
  }
  return conditions;
}

/// A part that is not true decides; a fault counts only if no part decides.
expression::Truth both(expression::Truth a, expression::Truth b) {
  if (a == expression::Truth::not_true || b == expression::Truth::not_true)
    return expression::Truth::not_true;
  return a == expression::Truth::fault || b == expression::Truth::fault ? expression::Truth::fault
                                                                        : expression::Truth::is_true;
}

/// The truth values of the parts of a condition by level; empty for a level without a part.
class LevelTruths {
 public:
  std::vector<expression::Truth>& operator[](daybook::Level level) {
    return truths_.at(static_cast<std::size_t>(level));
  }

  /// Skips whole orders and customers that are not selected.
  void choose(const daybook::Daybook& daybook, daybook::CustomerRun run,
              std::vector<std::uint8_t>& chosen) const {
    for (std::uint32_t customer = run.begin; customer < run.end; ++customer) {
      const expression::Truth of_customer =
          truth(daybook::Level::customer, customer, expression::Truth::is_true);
      if (of_customer == expression::Truth::not_true) continue;
      const daybook::Run orders = daybook.orders_of(customer);
      for (std::uint32_t order = orders.begin; order < orders.end; ++order) {
        const expression::Truth of_order = truth(daybook::Level::order, order, of_customer);
        if (of_order != expression::Truth::not_true)
          choose_lines(daybook, daybook.lines_of(order), of_order, chosen);
      }
    }
  }

 private:
  [[nodiscard]] expression::Truth truth(daybook::Level level, std::uint32_t member,
                                        expression::Truth before) const {
    const std::vector<expression::Truth>& of_level = truths_[static_cast<std::size_t>(level)];
    return of_level.empty() ? before : both(before, of_level[member]);
  }

  void choose_lines(const daybook::Daybook& daybook, daybook::Run lines, expression::Truth of_order,
                    std::vector<std::uint8_t>& chosen) const {
    const auto& products = daybook.parts().line_products;
    const bool by_product = !truths_[static_cast<std::size_t>(daybook::Level::product)].empty();
    for (std::uint32_t line = lines.begin; line < lines.end; ++line) {
      expression::Truth of_line =
          by_product ? truth(daybook::Level::product, products[line], of_order) : of_order;
      of_line = truth(daybook::Level::line, line, of_line);
      chosen[line] = static_cast<std::uint8_t>(of_line);
    }
  }

  std::array<std::vector<expression::Truth>, 4> truths_;
};

OrError<std::vector<std::uint8_t>> lines_where(const expression::Tree& where,
                                               const expression::LineView& lines) {
  const auto conditions = by_level(where, lines);
  if (!conditions)
    return tl::unexpected(Error{conditions.error().kind, "--where: " + conditions.error().message});
  LevelTruths all;
  for (const auto& [level, condition] : *conditions)
    all[level] = expression::truths(condition, lines.rows_of(level, condition.columns()));
  std::vector<std::uint8_t> chosen(lines.daybook().lines());
  daybook::for_each_customer_run(lines.daybook(),
                                 [&](daybook::CustomerRun run) { all.choose(lines.daybook(), run, chosen); });
  if (std::find(chosen.begin(), chosen.end(), static_cast<std::uint8_t>(expression::Truth::fault)) !=
      chosen.end())
    return data_error(
        fmt::format("--where: {} divides by zero or leaves the range of numbers or dates. Use CASE WHEN ... "
                    "to exclude such rows.",
                    in_quotes(where.text)));
  return chosen;
}

/// The lines of customers whose last order is on this day or later.
void leave_out_recent_customers(const daybook::Daybook& daybook, Date day,
                                std::vector<std::uint8_t>& chosen) {
  const daybook::Column* column = daybook.find("last_order_date");
  const std::vector<std::int32_t>& last = std::get<daybook::DateValues>(column->values).days;
  for (std::uint32_t customer = 0; customer < daybook.customers(); ++customer) {
    if (last[customer] < day.days) continue;
    const daybook::Run lines = daybook::lines_of_customer(daybook, customer);
    std::fill(chosen.begin() + lines.begin, chosen.begin() + lines.end, 0);
  }
}

/// Whether any text matches the pattern of LIKE, with case or without.
bool is_like(const expression::Node& like, const TextArray& texts, bool ignore_case) {
  expression::Node condition = like;
  if (ignore_case)
    for (expression::Node& arg : condition.args) {
      expression::Node lower;
      lower.op = expression::Op::lower;
      lower.args.push_back(std::move(arg));
      arg = std::move(lower);
    }
  daybook::TextValues values{{}, texts};
  for (std::uint32_t code = 0; code < texts.size(); ++code) values.codes.push_back(code);
  const daybook::ColumnValues column = std::move(values);
  expression::RowView view;
  view.rows = texts.size();
  view.columns.push_back({like.args.front().text, &column, nullptr});
  const auto compiled = expression::Expression::compile_condition(condition, "LIKE", view);
  if (!compiled) return true;  // not a pattern that is written there
  const auto rows = expression::rows_where(*compiled, view);
  return !rows || std::find(rows->begin(), rows->end(), 1) != rows->end();
}

void collect_unlike(const expression::Node& like, const TextArray& texts, std::vector<std::string>& found) {
  if (like.args.back().op != expression::Op::text_literal || is_like(like, texts, false)) return;
  const std::string& column = like.args.front().text;
  found.push_back(
      fmt::format("No {} is LIKE {}.{}", column, in_quotes(like.args.back().text),
                  is_like(like, texts, true)
                      ? fmt::format(" Upper and lower case differ; LOWER({}) LIKE '{}' finds both.", column,
                                    expression::to_lower(like.args.back().text))
                      : ""));
}

void collect_unknown(const expression::Node& node, const expression::LineView& lines,
                     std::vector<std::string>& found) {
  for (const expression::Node& arg : node.args) collect_unknown(arg, lines, found);
  const bool is_like = node.op == expression::Op::like;
  if ((node.op != expression::Op::equal && node.op != expression::Op::in_list && !is_like) ||
      node.args.front().op != expression::Op::column)
    return;
  const expression::RowView& view = lines.schema();
  const std::size_t position = view.find(node.args.front().text);
  if (position == view.columns.size()) return;
  const auto* texts = std::get_if<daybook::TextValues>(view.columns[position].values);
  if (texts == nullptr) return;
  if (is_like) return collect_unlike(node, texts->dictionary, found);
  std::vector<std::string> values;
  for (std::size_t i = 0; i < texts->dictionary.size(); ++i) values.emplace_back(texts->dictionary[i]);
  for (std::size_t i = 1; i < node.args.size(); ++i) {
    const expression::Node& value = node.args[i];
    if (value.op != expression::Op::text_literal ||
        std::find(values.begin(), values.end(), value.text) != values.end())
      continue;
    found.push_back(fmt::format("No {} is {}.{}", node.args.front().text, in_quotes(value.text),
                                did_you_mean(value.text, values)));
  }
}

}  // namespace

const OptionDeclarations<Selection>& selection_options() {
  static const OptionDeclarations<Selection> kOptions = {
      {{"where", "CONDITION", "", "only lines that meet an SQL condition"}, set_where},
      days_of_calendar_option<Selection>({"from", "DATE", "", "only orders from this day on"},
                                         &Selection::from),
      days_of_calendar_option<Selection>({"to", "DATE", "", "only orders up to this day"}, &Selection::to),
      days_of_calendar_option<Selection>(
          {"quiet-since", "DATE", "", "only customers who have not ordered since this day"},
          &Selection::quiet_since),
      word_option<Selection>({"returns", "net|ignore", "net", "amounts net of returns, or without returns"},
                             &Selection::returns, {"net", "ignore"})};
  return kOptions;
}

OrError<Selection> read_selection(const OptionValues& values) {
  PEAR_ASSIGN(Selection selection, read_options(selection_options(), values));
  const bool is_relative =
      (selection.from && selection.from->is_relative) || (selection.to && selection.to->is_relative);
  if (!is_relative) PEAR_TRY(days_of(selection, Date{}));
  return selection;
}

OrError<DaySpan> days_of(const Selection& selection, Date data_end) {
  DaySpan days{Date{INT32_MIN}, Date{INT32_MAX}};
  if (selection.from) days.first = selection.from->at(data_end).first;
  if (selection.to) days.last = selection.to->at(data_end).last;
  if (days.last < days.first)
    return usage_error(fmt::format("--from {} is later than --to {}, so no day is selected.",
                                   to_text(days.first), to_text(days.last)));
  return days;
}

std::string describe(const Selection& selection, Date data_end) {
  const auto day_text = [&](const GivenDays& given, Date DaySpan::*edge) {
    const std::string day = to_text(given.at(data_end).*edge);
    return given.is_relative ? fmt::format("{} ({})", day, given.text) : day;
  };
  std::vector<std::string> parts;
  if (selection.where) parts.push_back(selection.where->text);
  std::string days;
  if (selection.from) days = "from " + day_text(*selection.from, &DaySpan::first);
  if (selection.to) days += (days.empty() ? "up to " : " to ") + day_text(*selection.to, &DaySpan::last);
  if (!days.empty()) parts.push_back(days);
  if (selection.quiet_since)
    parts.push_back("customers who have not ordered since " +
                    day_text(*selection.quiet_since, &DaySpan::first));
  if (selection.returns == Returns::ignore) parts.emplace_back("without returns");
  return parts.empty() ? "all lines" : join(parts, ", ");
}

OrError<std::vector<std::uint8_t>> selected_lines(const Selection& selection,
                                                  const expression::LineView& lines, Date data_end) {
  const daybook::Daybook& daybook = lines.daybook();
  PEAR_ASSIGN(const DaySpan span, days_of(selection, data_end));
  std::vector<std::uint8_t> chosen;
  if (selection.where) {
    PEAR_ASSIGN(chosen, lines_where(*selection.where, lines));
  } else {
    chosen.assign(daybook.lines(), 1);
  }
  if (selection.quiet_since)
    leave_out_recent_customers(daybook, selection.quiet_since->at(data_end).first, chosen);
  const bool by_day = selection.from || selection.to;
  if (!by_day && selection.returns == Returns::net) return chosen;
  const auto returns = daybook.return_flags();
  const auto days = daybook.order_days();
  daybook::for_each_customer_run(daybook, [&](daybook::CustomerRun run) {
    daybook::walk_lines(daybook, run, [&](const daybook::LinePlace& place) {
      const bool in_time = days[place.order] >= span.first.days && days[place.order] <= span.last.days;
      if (!in_time || (selection.returns == Returns::ignore && returns[place.line] != 0))
        chosen[place.line] = 0;
    });
  });
  return chosen;
}

std::vector<std::string> unknown_values(const Selection& selection, const expression::LineView& lines) {
  std::vector<std::string> found;
  if (selection.where) collect_unknown(selection.where->root, lines, found);
  return found;
}

}  // namespace pear::analysis
