#include "pushdown/questions/retention.hpp"

#include <algorithm>
#include <limits>
#include <map>
#include <utility>

#include <fmt/format.h>

#include "pushdown/group_reader.hpp"
#include "questions/retention/cohorts.hpp"
#include "questions/retention/question.hpp"

namespace pear::pushdown {
namespace {

using retention::Cell;
using retention::PeriodKind;

/// The customers of a group who began on the same day.
struct Beginners {
  std::uint64_t customers = 0;
  std::vector<Cell> cells;  ///< by period that is over; see add_beginners
};
using AllBeginners = std::map<std::pair<std::uint32_t, std::int32_t>, Beginners>;  ///< by group and first day

/// Reads them, in one statement each for customers, orders and second orders.
class BeginnerReader {
 public:
  BeginnerReader(const retention::Period& period, const GroupReader& reader, Date data_end)
      : period_(period),
        reader_(reader),
        dialect_(reader.dialect()),
        keys_(reader.names()),
        data_end_(data_end) {}

  OrError<AllBeginners> read() {
    PEAR_TRY(read_customers());
    PEAR_TRY(read_orders());
    PEAR_TRY(read_second_orders());
    return std::move(all_);
  }

 private:
  OrError<void> read_customers() {
    const std::string by_customer = fmt::format(
        "SELECT {0}customer_id, first_day FROM ({1}) AS pear_history WHERE first_day IS NOT NULL GROUP BY "
        "{0}customer_id, first_day",
        keys_, lines_with_first_days());
    return reader_.read(
        fmt::format("SELECT {0}first_day, COUNT(*) AS n FROM ({1}) AS pear_customers GROUP BY {0}first_day",
                    keys_, by_customer),
        {"first_day", "n"}, [&](std::uint32_t group, std::span<const SqlValue> values) -> OrError<void> {
          PEAR_ASSIGN(const std::int32_t first, day(*values[0]));
          PEAR_ASSIGN(const std::int64_t customers, whole64(values[1]));
          Beginners& beginners = all_[{group, first}];
          beginners.customers = static_cast<std::uint64_t>(customers);
          beginners.cells.resize(
              static_cast<std::size_t>(std::max(0, period_.complete(Date{first}, data_end_))));
          return {};
        });
  }

  OrError<void> read_orders() {
    const std::string by_customer = fmt::format(
        "SELECT {0}customer_id, first_day, in_period, COUNT(DISTINCT CASE WHEN NOT is_return THEN order_id "
        "END) "
        "AS orders, SUM(amount) AS amount "
        "FROM (SELECT pear_history.*, {1} AS in_period FROM ({2}) AS pear_history WHERE order_date >= "
        "first_day) AS pear_periods GROUP BY "
        "{0}customer_id, first_day, in_period",
        keys_, period_between("first_day", "order_date"), lines_with_first_days());
    return reader_.read(
        fmt::format(
            "SELECT {0}first_day, in_period, SUM(orders) AS orders, COUNT(CASE WHEN orders > 0 THEN 1 "
            "END) AS ordered, "
            "SUM(amount) AS amount FROM ({1}) AS pear_customers GROUP BY {0}first_day, in_period",
            keys_, by_customer),
        {"first_day", "in_period", "orders", "ordered", "amount"},
        [&](std::uint32_t group, std::span<const SqlValue> values) -> OrError<void> {
          PEAR_ASSIGN(Cell * cell, cell_of(group, values));
          if (cell == nullptr) return {};
          PEAR_ASSIGN(const std::int64_t orders, whole64(values[2]));
          PEAR_ASSIGN(const std::int64_t ordered, whole64(values[3]));
          PEAR_ASSIGN(const std::int64_t amount, whole64(values[4]));
          cell->orders = static_cast<std::uint64_t>(orders);
          cell->ordered = static_cast<std::uint64_t>(ordered);
          cell->amount.add(Decimal::from_units(amount));
          return {};
        });
  }

  OrError<void> read_second_orders() {
    const std::string orders = fmt::format(
        "SELECT {0}customer_id, order_id, first_day, MIN(order_date) AS on_day FROM ({1}) AS pear_history "
        "WHERE "
        "NOT is_return GROUP BY "
        "{0}customer_id, order_id, first_day",
        keys_, lines_with_first_days());
    const std::string numbered = fmt::format(
        "SELECT {0}first_day, {1} AS in_period, ROW_NUMBER() OVER (PARTITION BY customer_id ORDER BY on_day) "
        "AS "
        "place FROM ({2}) AS pear_orders",
        keys_, period_between("first_day", "on_day"), orders);
    return reader_.read(
        fmt::format("SELECT {0}first_day, in_period, COUNT(*) AS n FROM ({1}) AS pear_numbered "
                    "WHERE place = 2 GROUP BY {0}first_day, in_period",
                    keys_, numbered),
        {"first_day", "in_period", "n"},
        [&](std::uint32_t group, std::span<const SqlValue> values) -> OrError<void> {
          PEAR_ASSIGN(Cell * cell, cell_of(group, values));
          if (cell == nullptr) return {};
          PEAR_ASSIGN(const std::int64_t customers, whole64(values[2]));
          cell->ordered_again = static_cast<std::uint64_t>(customers);
          return {};
        });
  }

  /// The cell of the first day and the period; null for a period that is not over.
  OrError<Cell*> cell_of(std::uint32_t group, std::span<const SqlValue> values) {
    PEAR_ASSIGN(const std::int32_t first, day(*values[0]));
    PEAR_ASSIGN(const std::int64_t period, whole64(values[1]));
    std::vector<Cell>& cells = all_[{group, first}].cells;
    const auto place = static_cast<std::size_t>(period);
    return place < cells.size() ? &cells[place] : nullptr;
  }

  [[nodiscard]] std::string lines_with_first_days() const {
    return fmt::format(
        "SELECT {}customer_id, order_id, order_date, is_return, amount, MIN(CASE WHEN NOT is_return THEN "
        "order_date END) OVER (PARTITION BY "
        "customer_id) AS first_day FROM pear_lines",
        reader_.definitions());
  }

  /// See Period::of. Whole numbers are divided towards zero, and no day is before the first one.
  [[nodiscard]] std::string period_between(const std::string& first, const std::string& day) const {
    const std::string days = dialect_.days_between(day, first);
    switch (period_.kind) {
      case PeriodKind::days:
        return fmt::format("{} / {}", days, period_.days);
      case PeriodKind::week:
        return period_.by_calendar ? fmt::format("({}) - ({})", week_of(day), week_of(first))
                                   : fmt::format("{} / 7", days);
      case PeriodKind::month:
      case PeriodKind::quarter:
        break;
    }
    const int months = period_.kind == PeriodKind::quarter ? 3 : 1;
    if (period_.by_calendar)
      return fmt::format("({}) / {} - ({}) / {}", dialect_.month_index(day), months,
                         dialect_.month_index(first), months);
    const auto day_of = [&](const std::string& date) {
      return dialect_.part_of(expression::Op::day_of, date);
    };
    return fmt::format("(({}) - ({}) - CASE WHEN {} < {} THEN 1 ELSE 0 END) / {}", dialect_.month_index(day),
                       dialect_.month_index(first), day_of(day), day_of(first), months);
  }

  /// Weeks from a Monday on.
  [[nodiscard]] std::string week_of(const std::string& date) const {
    return fmt::format("{} / 7", dialect_.days_between(date, dialect_.date_literal(pear::date_of(1, 1, 1))));
  }

  const retention::Period& period_;
  const GroupReader& reader_;
  const Dialect& dialect_;
  const std::string& keys_;
  Date data_end_;
  AllBeginners all_;
};

/// The cohorts that the beginners are in, in order.
void combine(AllBeginners all, retention::Counts& counts) {
  std::int32_t earliest = std::numeric_limits<std::int32_t>::max(),
               latest = std::numeric_limits<std::int32_t>::min();
  for (const auto& [key, beginners] : all) {
    const std::int32_t time =
        counts.is_time() ? retention::time_of(counts.options.cohort, Date{key.second}) : 0;
    earliest = std::min(earliest, time);
    latest = std::max(latest, time);
  }
  std::vector<std::string> labels;
  if (counts.is_time()) labels = retention::labels_of_times(counts.options.cohort, earliest, latest);
  for (std::uint32_t group = 0; !counts.is_time() && group < counts.groups.count; ++group)
    labels.push_back(counts.groups.label(group));
  std::vector<retention::CohortState> states(labels.size());
  for (auto& [key, beginners] : all) {
    const std::size_t cohort =
        counts.is_time()
            ? static_cast<std::size_t>(retention::time_of(counts.options.cohort, Date{key.second}) - earliest)
            : key.first;
    retention::add_beginners(states[cohort], beginners.cells, Date{key.second}, beginners.customers);
  }
  retention::finish(std::move(states), labels, counts);
}

}  // namespace

OrError<result::Result> answer_retention(const analysis::OptionValues& values, const SelectedLines& lines,
                                         const analysis::QuestionInput& input) {
  PEAR_ASSIGN(const retention::Options options, retention::read_options(values));
  PEAR_ASSIGN(const GroupReader reader, GroupReader::read_groups("cohort", options.columns, lines));
  retention::Counts counts{options, reader.groups(), {}, {}, 0, *input.population.first_date, input.data_end};
  PEAR_TRY(retention::check_periods(counts));
  PEAR_ASSIGN(counts.without_order, reader.customers_without_order());
  PEAR_ASSIGN(AllBeginners all, BeginnerReader(options.period, reader, input.data_end).read());
  combine(std::move(all), counts);
  if (lines.session.explains()) return result::Result{};
  return retention::result_of(counts, input);
}

}  // namespace pear::pushdown
