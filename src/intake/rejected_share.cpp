#include "intake/rejected_share.hpp"

#include <algorithm>
#include <cmath>

#include <fmt/format.h>

#include "base/text.hpp"
#include "intake/inspect/value_shape.hpp"

namespace pear::intake {
namespace {

const RejectReason* most_frequent_reason(const Imported& imported, const std::string& table) {
  for (const RejectReason& reason : imported.reasons) {
    if (reason.table == table) return &reason;
  }
  return nullptr;
}

/// "Order Date "31.12.2024" is not a date (YYYY-MM-DD) (orders.csv, line 2)"
std::string described(const RejectReason& reason) {
  return fmt::format("{} {} {} ({}, line {})", reason.column.empty() ? "the row" : reason.column,
                     in_quotes(reason.first_value), reason.reason, reason.first_source, reason.first_line);
}

/// The format that would fit a date that could not be read; empty for any other reason.
std::string fitting_format(const RejectReason& reason) {
  if (reason.reason.find(" date") == std::string::npos && reason.reason.find(" day ") == std::string::npos)
    return "";
  const auto formats = fitting_formats(reason.first_value);
  if (formats.empty() || formats.front().starts_with("%Y-%m-%d")) return "";  // ISO 8601 needs no format
  return fmt::format(" {} would fit it: date_format = {} in [{}].",
                     formats.size() == 1 ? "This format" : "One of these",
                     in_quotes(join(formats, "\" or \"")), reason.table);
}

/// "amount 1,234.50 EUR", as far as the amounts of the rejected rows could be read.
std::string value_of(const DecimalSum& amount, std::uint64_t unreadable, std::uint64_t rejected,
                     const std::string& currency) {
  const auto total = amount.total();
  if (unreadable == rejected || !total) return "amount unknown";
  return fmt::format("amount {}{}{}", unreadable > 0 ? "at least " : "", with_thousands(*total),
                     currency.empty() ? "" : " " + currency);
}

/// The formats of the tables that may have order dates, with day and month as numbers.
std::vector<std::string> order_date_formats(const IntakePlan& plan) {
  std::vector<std::string> formats;
  for (const TableKind kind : {TableKind::lines, TableKind::orders}) {
    if (plan.table(kind) == nullptr) continue;
    for (const SourcePlan& from : plan.table(kind)->from)
      for (const std::string& format : from.dates.formats)
        if (format.find("%d") != std::string::npos && format.find("%m") != std::string::npos)
          formats.push_back(format);
  }
  return formats;
}

std::string with_day_and_month_swapped(std::string format) {
  const std::size_t day = format.find("%d") + 1, month = format.find("%m") + 1;
  std::swap(format[day], format[month]);
  return format;
}

}  // namespace

OrError<void> check_few_rejected(const Imported& imported) {
  for (const SourceAccount& source : imported.sources) {
    const daybook::SourceRecord& record = source.record;
    const std::uint64_t rejected = record.rows_rejected - source.required_away;
    if (rejected * 10 <= record.rows_read) continue;
    const RejectReason* reason = most_frequent_reason(imported, record.table);
    return data_error(fmt::format(
        "{} of {} of {} would be rejected ({:.1f}%); nothing was written.{} Check the intake "
        "file with pear-thread inspect, "
        "or accept this with pear-thread import --accept-rejects.",
        with_thousands(static_cast<std::int64_t>(rejected)), counted(record.rows_read, "row"), record.name,
        100.0 * static_cast<double>(rejected) / static_cast<double>(record.rows_read),
        reason == nullptr
            ? ""
            : fmt::format(" Most frequent: {}.{}", described(*reason), fitting_format(*reason))));
  }
  return {};
}

std::string left_out(const Imported& imported) {
  std::uint64_t rows = 0, rejected = 0, unreadable = 0;
  DecimalSum amount, amount_rejected;
  for (const SourceAccount& source : imported.sources) {
    if (source.record.table != to_text(TableKind::lines)) continue;
    rows += source.record.rows_read;
    rejected += source.record.rows_rejected;
    unreadable += source.sums.unreadable;
    amount.add(source.sums.read);
    amount_rejected.add(source.sums.rejected);
  }
  constexpr double kWorthMentioning = 0.005;
  const double share = rows == 0 ? 0 : static_cast<double>(rejected) / static_cast<double>(rows);
  const double whole = std::abs(amount.approximate()), part = std::abs(amount_rejected.approximate());
  const bool is_much = share > kWorthMentioning || (part > kWorthMentioning * whole && part > 0);
  if (rejected == 0 || !is_much) return "";
  const RejectReason* reason = most_frequent_reason(imported, std::string(to_text(TableKind::lines)));
  return fmt::format("Left out: {} of the lines ({:.1f}%), {}{}.", counted(rejected, "row"), 100 * share,
                     value_of(amount_rejected, unreadable, rejected, imported.currency),
                     reason == nullptr ? "" : fmt::format("; most frequent: {}", described(*reason)));
}

std::string orders_in_the_future(const Imported& imported, const IntakePlan& plan, Date today) {
  const auto days = imported.built.daybook.order_days();
  const std::int32_t tomorrow = today.days + 1;  // somewhere it is tomorrow already
  const auto later = static_cast<std::uint64_t>(
      std::count_if(days.begin(), days.end(), [&](std::int32_t day) { return day > tomorrow; }));
  if (later == 0) return "";
  const std::string last = to_text(Date{*std::max_element(days.begin(), days.end())});
  std::string remedy = "Check date_format and the dates.";
  for (const std::string& format : order_date_formats(plan))
    remedy = fmt::format("The format {} looks wrong; if day and month are the other way round, it is {}.",
                         in_quotes(format), in_quotes(with_day_and_month_swapped(format)));
  return fmt::format("{} in the future, the last one on {}. {}", counted(later, "order is", "orders are"),
                     last, remedy);
}

}  // namespace pear::intake
