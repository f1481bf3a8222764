#include "pushdown/ask_database.hpp"

#include <algorithm>
#include <optional>
#include <utility>

#include <fmt/format.h>

#include "analysis/run_question.hpp"
#include "base/natural_order.hpp"
#include "base/text.hpp"
#include "pushdown/members_in_sql.hpp"
#include "pushdown/population_in_sql.hpp"
#include "pushdown/questions/all_questions.hpp"

namespace pear::pushdown {
namespace {

namespace role = daybook::role;

std::vector<std::string> names_of(const Warehouse& warehouse) {
  std::vector<std::string> names;
  for (const WarehouseColumn& column : warehouse.columns) names.push_back(column.name);
  const auto add = [&](std::string_view name) {
    if (std::find(names.begin(), names.end(), name) == names.end()) names.emplace_back(name);
  };
  add(role::kAmount);
  add(role::kIsReturn);
  if (warehouse.fees) add(role::kIsFee);
  return names;
}

/// A key that occurs twice would count each of its lines twice.
OrError<void> check_keys(const Warehouse& warehouse, Session& session) {
  for (const UniqueKey& key : warehouse.keys) {
    const std::string columns = join(key.columns, ", ");
    PEAR_ASSIGN(
        const SqlRows rows,
        session.rows("",
                     fmt::format("SELECT {0} FROM ({1}) AS pear_keys WHERE {2} IS NOT NULL GROUP BY "
                                 "{0} HAVING COUNT(*) > 1 {3}",
                                 columns, key.query, key.columns.front(), session.dialect().first_rows(1)),
                     key.columns));
    if (rows.empty()) continue;
    std::vector<std::string> values;
    for (const auto& value : rows.front()) values.push_back(value.value_or(""));
    return data_error(
        fmt::format("{}, [{}]: {} {} has several rows, so its lines would be counted several times. Use a "
                    "view with one row "
                    "for each.",
                    warehouse.name, key.table, join(key.names, ", "), in_quotes(join(values, ", "))));
  }
  return {};
}

/// Amounts of two currencies do not add up.
OrError<void> check_currency(const Warehouse& warehouse, Session& session) {
  for (const WarehouseColumn& column : warehouse.columns) {
    if (column.name != role::kCurrency) continue;
    PEAR_ASSIGN(
        const SqlRows rows,
        session.rows("",
                     fmt::format("SELECT {0} AS currency FROM {1} WHERE {0} IS NOT NULL GROUP BY {0} {2}",
                                 column.raw, warehouse.from, session.dialect().first_rows(2)),
                     {"currency"}));
    if (rows.size() > 1)
      return data_error(
          fmt::format("{}: the lines are in {} and {}. A shop has one currency: use a view of the lines of "
                      "one, or of converted "
                      "amounts.",
                      warehouse.name, rows[0][0].value_or(""), rows[1][0].value_or("")));
  }
  return {};
}

/// The schema, before anything is known of the lines but the last day.
analysis::DaybookSource source_of(const Warehouse& warehouse, Date data_end) {
  analysis::DaybookSource source{names_of(warehouse), {}, warehouse.currency, {}};
  for (const WarehouseColumn& column : warehouse.columns) source.levels.emplace(column.name, column.level);
  source.load = [&warehouse, data_end](const std::vector<std::string>& columns) -> OrError<daybook::Daybook> {
    std::vector<std::string> with_marks = columns;
    for (const auto* conditions : {&warehouse.returns, &warehouse.fees})
      if (*conditions)
        for (const std::string& name : expression::columns_of(**conditions)) with_marks.push_back(name);
    return schema_of(warehouse, with_marks, data_end);
  };
  return source;
}

/// Whether the question shows these ids.
bool shows(const analysis::PreparedQuestion& question, std::string_view id) {
  return std::find(question.columns.begin(), question.columns.end(), id) != question.columns.end() ||
         std::any_of(question.trees.begin(), question.trees.end(),
                     [&](const analysis::GivenExpression& given) {
                       return given.tree.root.op == expression::Op::column && given.tree.root.text == id;
                     });
}

/// Notes texts that the condition compares with a column of few values, but that it does not contain.
OrError<std::vector<std::string>> unknown_texts(const analysis::Selection& selection,
                                                const SelectedLines& lines) {
  if (!selection.where) return std::vector<std::string>();
  daybook::DaybookParts parts = lines.scope.schema.daybook().parts();
  for (const std::string& name : expression::columns_of(*selection.where)) {
    const auto column = std::find_if(parts.columns.begin(), parts.columns.end(),
                                     [&](const daybook::Column& each) { return each.name == name; });
    if (column == parts.columns.end() || column->type() != daybook::ColumnType::text) continue;
    const std::string as_name = column_in_sql(name);
    PEAR_ASSIGN(
        const SqlRows rows,
        lines.session.rows(lines.with, fmt::format("SELECT {0} FROM pear_all_lines GROUP BY {0}", as_name),
                           {as_name}));
    std::vector<std::string> texts;
    for (const auto& row : rows)
      if (row[0]) texts.push_back(*row[0]);
    std::sort(texts.begin(), texts.end(), NaturalLess{});
    daybook::TextValues values{{daybook::kEmptyCode}, {}};
    for (const std::string& text : texts) values.dictionary.push_back(text);
    column->values = std::move(values);
  }
  // Ids are not compared: all of them would have to be read.
  for (TextArray* ids : {&parts.customer_ids, &parts.order_ids, &parts.product_ids}) *ids = {};
  const daybook::Daybook with_texts(std::move(parts));
  return analysis::unknown_values(selection, expression::LineView(with_texts));
}

/// The customers and products that the question shows with their names.
OrError<daybook::Daybook> shown_members(const analysis::PreparedQuestion& question,
                                        const SelectedLines& lines) {
  return members_of(lines, shows(question, role::kCustomerId), shows(question, role::kProductId));
}

/// Asks one question of one database: first for its last day, which the rest depends on.
class Asker {
 public:
  Asker(const DatabaseQuestion& asked, const Warehouse& warehouse, Session& session)
      : asked_(asked), warehouse_(warehouse), session_(session) {
    for (const analysis::GivenExpression& given : analysis::all_trees(asked.prepared, asked.shared))
      windows_.insert(windows_.end(), given.tree.windows.begin(), given.tree.windows.end());
  }

  OrError<result::Result> ask(const AnswerInDatabase& answer) {
    PEAR_TRY(prepare(Date{}));
    const PopulationColumns columns{warehouse_.fees.has_value(),
                                    schema_->daybook().find(role::kAmount) != nullptr};
    PEAR_ASSIGN(const SelectedLines all, selected(analysis::Selection{}, Date{}));
    PEAR_ASSIGN(CountedLines counted_lines, count_lines(session_, all.with, "pear_lines", columns));
    result::Population& whole = counted_lines.population;
    PEAR_ASSIGN(const std::uint64_t rows, rows_of_table(session_, all.with));
    if (session_.explains()) whole = {1, 1, 1, 0, kSomeDay, kSomeDay, {}, 0, {}};
    if (whole.lines == 0)
      return data_error(fmt::format("{}: none of the {} has ids, a date, a quantity and an amount.",
                                    warehouse_.name, counted(rows, "row")));
    PEAR_TRY(prepare(*whole.last_date));
    const analysis::Selection& selection = asked_.shared.selection;
    PEAR_ASSIGN(const SelectedLines lines, selected(selection, *whole.last_date));
    PEAR_ASSIGN(analysis::AskedOf of, asked_of(lines, whole, columns));
    if (rows > whole.lines)
      of.notes.push_back(
          fmt::format("{} left out: {} an id, a date, a quantity or an amount, or it cannot be read.",
                      counted(rows - whole.lines, "row is", "rows are"),
                      rows - whole.lines == 1 ? "it lacks" : "they lack"));
    if (const std::uint64_t orders = counted_lines.orders_with_two_dates; orders > 0)
      of.notes.push_back(
          fmt::format("{} lines of different dates, and each line counts on its own. An import uses the "
                      "earliest for the whole order; a "
                      "view can do the same.",
                      counted(orders, "order has", "orders have")));
    PEAR_ASSIGN(daybook::Daybook members, shown_members(asked_.prepared, lines));
    analysis::QuestionInput input{std::move(members),
                                  of.population,
                                  of.whole,
                                  *whole.last_date,
                                  warehouse_.currency,
                                  prepared_.grains,
                                  of.notes,
                                  {},
                                  {},
                                  {}};
    PEAR_ASSIGN(const analysis::DaySpan days, analysis::days_of(selection, *whole.last_date));
    input.data_end = std::min(input.data_end, days.last);
    const expression::LineView of_members(input.daybook, input.grains);
    PEAR_ASSIGN(const analysis::MemberLabels labels,
                analysis::MemberLabels::prepare("with", asked_.shared.with, of_members));
    PEAR_ASSIGN(result::Result result, answer.answer(asked_.values, lines, input));
    if (session_.explains()) return result;
    return analysis::with_selection(std::move(result), of, labels, asked_.prepared, asked_.shared);
  }

 private:
  OrError<void> prepare(Date data_end) {
    PEAR_ASSIGN(prepared_,
                analysis::prepared_daybook(asked_.prepared, asked_.shared, source_of(warehouse_, data_end)));
    schema_.emplace(prepared_.daybook, prepared_.grains);
    return {};
  }

  OrError<SelectedLines> selected(const analysis::Selection& selection, Date data_end) {
    const LineScope scope{warehouse_, session_.dialect(), *schema_, windows_};
    PEAR_ASSIGN(std::string with, with_lines(scope, selection, data_end));
    return SelectedLines{session_, scope, std::move(with)};
  }

  OrError<analysis::AskedOf> asked_of(const SelectedLines& lines, const result::Population& whole,
                                      const PopulationColumns& columns) {
    analysis::AskedOf of{whole, {}, {}, warehouse_.currency};
    const analysis::Selection& selection = asked_.shared.selection;
    if (selection.is_all()) return of;
    PEAR_ASSIGN(of.notes, unknown_texts(selection, lines));
    PEAR_ASSIGN(const CountedLines selected, count_lines(session_, lines.with, "pear_lines", columns));
    of.population = selected.population;
    of.whole = whole;
    if (session_.explains()) of.population = whole;
    if (of.population.lines == 0)
      return analysis::nothing_selected(whole, of.notes, selection, *whole.last_date);
    return of;
  }

  const DatabaseQuestion& asked_;
  const Warehouse& warehouse_;
  Session& session_;
  std::vector<expression::Window> windows_;
  expression::WithWindows prepared_;
  std::optional<expression::LineView> schema_;
};

}  // namespace

OrError<result::Result> ask_database(const DatabaseQuestion& asked, const Warehouse& warehouse,
                                     Session& session) {
  const AnswerInDatabase* answer = find_answer(asked.question.name);
  if (answer == nullptr)
    return usage_error(
        fmt::format("{} needs the lines themselves, so a database does not answer it. Import {}, whole or a "
                    "sample of its "
                    "customers (--customers 1/50), and ask the daybook. Databases answer {}.",
                    asked.question.name, warehouse.name, join(questions_in_databases(), ", ")));
  PEAR_TRY(check_keys(warehouse, session));
  PEAR_TRY(check_currency(warehouse, session));
  return Asker(asked, warehouse, session).ask(*answer);
}

OrError<std::vector<std::string>> explain(const DatabaseQuestion& asked, const Warehouse& warehouse,
                                          Session& session) {
  PEAR_TRY(ask_database(asked, warehouse, session));
  return session.statements();
}

}  // namespace pear::pushdown
