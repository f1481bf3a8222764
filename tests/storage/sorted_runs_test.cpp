// Sales that are sorted part by part are the same daybook as those that are sorted in memory.
#include <map>

#include <fmt/format.h>
#include <gtest/gtest.h>
#include <rapidcheck/gtest.h>

#include "base/date.hpp"
#include "base/dictionary.hpp"
#include "storage/changed_daybook.hpp"
#include "storage/daybook_reader.hpp"
#include "storage/daybook_writer.hpp"
#include "storage/page.hpp"
#include "support/random_shop.hpp"
#include "support/temporary_folder.hpp"

namespace pear::test {
namespace {

using daybook::Level;

/// A further column, as texts; empty for no value.
struct Further {
  std::string name;
  std::vector<Level> levels;
  bool forced = false;
  bool of_numbers = false;  ///< it is one of numbers already, otherwise one of texts
  std::vector<std::string> values;
};

/// Random lines, with columns of all levels that are constant there, or nearly.
struct Lines {
  Sales sales;
  std::vector<Further> columns;
};

std::vector<Level> some_levels() {
  const std::vector<std::vector<Level>> all = {{},
                                               {Level::customer, Level::product, Level::order},
                                               {Level::product},
                                               {Level::customer},
                                               {Level::order},
                                               {Level::line}};
  return all[static_cast<std::size_t>(pick(0, static_cast<int>(all.size()) - 1))];
}

std::string member_of(const Sale& sale, int level) {
  const std::string members[] = {sale.customer_id, sale.product_id, sale.customer_id + "/" + sale.order_id,
                                 ""};
  return members[level];
}

Further random_column(const Sales& sales, int number) {
  Further column{fmt::format("column_{}", number), some_levels(), false, false, {}};
  column.forced = column.levels.size() == 1 && pick(0, 1) == 1;
  column.of_numbers = pick(0, 2) == 0;
  const int kind = pick(0, 3), constant_at = pick(0, 3), slips = pick(0, 3) == 0 ? 10 : 0;
  std::map<std::string, std::string> known;
  const auto value = [&]() -> std::string {
    const int number_of = pick(0, 12);
    if (number_of == 0) return "";
    if (column.of_numbers || kind == 0)
      return fmt::format("{}.{}", number_of, number_of % 2 == 0 ? "5" : "50");
    if (kind == 1) return to_text(Date{19'000 + number_of});
    return fmt::format("value {}", number_of);
  };
  for (const Sale& sale : sales) {
    const std::string member = member_of(sale, constant_at);
    std::string made = value();
    const bool is_free = constant_at == 3 || (slips > 0 && pick(0, slips) == 0);
    column.values.push_back(is_free ? made : known.try_emplace(member, made).first->second);
  }
  return column;
}

Lines random_lines() {
  Lines lines{random_sales(pick(0, 1) == 1), {}};
  for (int i = pick(0, 3); i > 0; --i) lines.columns.push_back(random_column(lines.sales, i));
  return lines;
}

/// The lines at these positions; dictionaries contain only what they use.
daybook::LineTable table_of(const Lines& lines, const std::vector<std::size_t>& chosen) {
  daybook::LineTable table;
  Dictionary customers, orders, products;
  const auto code = [](Dictionary& dictionary, const std::string& text) {
    return text.empty() ? daybook::kEmptyCode : dictionary.code_of(HashedText(text));
  };
  daybook::DecimalValues quantities, prices, amounts;
  daybook::FlagValues fees;
  bool any_time = false;
  for (const std::size_t i : chosen) {
    const Sale& sale = lines.sales[i];
    const Moment moment = *parse_iso_moment(sale.date);
    table.customer.push_back(code(customers, sale.customer_id));
    table.order.push_back(code(orders, sale.order_id));
    table.product.push_back(code(products, sale.product_id));
    table.days.push_back(moment.date.days);
    table.seconds.push_back(moment.second_of_day);
    any_time |= moment.second_of_day != Moment::kNoTime;
    table.is_return.push_back(is_return(sale) ? 1 : 0);
    quantities.units.push_back(sale.quantity * Decimal::kScale);
    prices.units.push_back(sale.unit_price * 100);
    amounts.units.push_back(sale.quantity * sale.unit_price * 100);
    fees.flags.push_back(sale.product_id == "P3" ? 1 : 0);
  }
  if (!any_time) table.seconds.clear();
  const auto add = [&](std::string_view name, daybook::ColumnValues values) {
    table.columns.push_back({{std::string(name), Level::line, std::move(values)}, {}});
  };
  add(daybook::role::kIsFee, std::move(fees));
  add(daybook::role::kQuantity, std::move(quantities));
  add(daybook::role::kUnitPrice, std::move(prices));
  add(daybook::role::kAmount, std::move(amounts));
  for (const Further& column : lines.columns) {
    daybook::TextValues texts;
    daybook::DecimalValues numbers;
    Dictionary dictionary;
    for (const std::size_t i : chosen) {
      texts.codes.push_back(code(dictionary, column.values[i]));
      const auto number = Decimal::parse(column.values[i]);
      numbers.units.push_back(number ? number->units() : daybook::kEmptyUnits);
    }
    texts.dictionary = dictionary.take();
    daybook::ColumnValues values = std::move(texts);
    if (column.of_numbers) values = std::move(numbers);
    table.columns.push_back({{column.name, Level::line, std::move(values)}, column.levels, column.forced});
  }
  table.customer_ids = customers.take();
  table.order_ids = orders.take();
  table.product_ids = products.take();
  return table;
}

std::string decisions(const daybook::BuiltDaybook& built) {
  std::string text = fmt::format("{} {};", built.orders_with_two_dates, built.shared_order_ids);
  for (const daybook::NearMiss& miss : built.near_misses)
    text += fmt::format(" {} {} {} {};", miss.column, to_text(miss.level), to_text(miss.kept_at), miss.share);
  for (const daybook::SettledColumn& settled : built.settled)
    text += fmt::format(" {} {} {};", settled.column, to_text(settled.level), settled.members);
  return text;
}

std::vector<std::size_t> all_of(const Lines& lines) {
  std::vector<std::size_t> all(lines.sales.size());
  for (std::size_t i = 0; i < all.size(); ++i) all[i] = i;
  return all;
}

/// The totals of a daybook, by definition.
std::string totals_of(const Lines& lines) {
  std::map<std::string, bool> orders;  // by customer and id: whether it contains more than returns
  std::uint64_t returns = 0, fee_lines = 0;
  std::int64_t amount = 0, fees = 0;
  for (const Sale& sale : lines.sales) {
    orders[member_of(sale, 2)] |= !is_return(sale);
    returns += is_return(sale) ? 1U : 0U;
    fee_lines += sale.product_id == "P3" && !is_return(sale) ? 1U : 0U;
    amount += sale.quantity * sale.unit_price * 100;
    fees += sale.product_id == "P3" ? sale.quantity * sale.unit_price * 100 : 0;
  }
  std::uint64_t bought = 0;
  for (const auto& [order, more] : orders) bought += more ? 1U : 0U;
  return fmt::format("{} {} {} {} {} {}", bought, lines.sales.size(), returns, fee_lines, amount, fees);
}

RC_GTEST_PROP(SortedRuns, MakeTheSameDaybookAsSortingInMemory, ()) {
  const Lines lines = random_lines();
  const TemporaryFolder folder;
  daybook::BuiltDaybook whole = *daybook::build_daybook(table_of(lines, all_of(lines)));
  const std::string wanted = *storage::write_daybook(folder / "whole.daybook", whole.daybook, kProvenance);

  std::map<std::string, int> part_of;  // an order is in one part
  std::map<int, std::vector<std::size_t>> parts;
  for (std::size_t i = 0; i < lines.sales.size(); ++i)
    parts[part_of.try_emplace(lines.sales[i].order_id, pick(0, 3)).first->second].push_back(i);
  storage::SortedRuns runs(folder.path());
  for (const auto& [part, chosen] : parts) RC_ASSERT(runs.add(table_of(lines, chosen)).has_value());
  storage::MergedSales merged = *storage::MergedSales::make(std::move(runs));
  const daybook::BuiltDaybook built = merged.take_built();
  auto target = storage::DaybookTarget::lock(folder / "merged.daybook");
  const auto given = target->write(merged, built.daybook, kProvenance);
  RC_ASSERT(given.has_value());
  RC_ASSERT(target->commit().has_value());

  RC_ASSERT(decisions(built) == decisions(whole));
  auto file = storage::DaybookFile::open(folder / "merged.daybook");
  RC_LOG() << (file ? "" : file.error().message);
  RC_ASSERT(file.has_value());
  const auto verified = file->verify();
  RC_LOG() << (verified ? "" : verified.error().message);
  RC_ASSERT(verified.has_value());
  RC_ASSERT(file->load_all()->parts() == whole.daybook.parts());
  RC_ASSERT(*given == wanted);
  const storage::SalesTotals& totals = merged.totals();
  RC_ASSERT(fmt::format("{} {} {} {} {} {}", totals.orders, totals.lines, totals.returns, totals.fee_lines,
                        totals.amount.total()->units(), totals.fees->total()->units()) == totals_of(lines));
  const auto days = whole.daybook.order_days();
  RC_ASSERT(totals.first_date.days == *std::min_element(days.begin(), days.end()));
  RC_ASSERT(totals.last_date.days == *std::max_element(days.begin(), days.end()));
}

/// Arrays of several pages, with orders and customers across their borders.
TEST(SortedRuns, SpanManyPages) {
  Lines lines;
  for (std::size_t i = 0; i < 3 * storage::kPageValues; ++i)
    lines.sales.push_back({fmt::format("A{}", i / 3), to_text(Date{19'000 + static_cast<int>(i % 700)}),
                           fmt::format("C{}", i / 3 % 70'001), fmt::format("P{}", i % 11), 1, 100});
  const TemporaryFolder folder;
  const std::string wanted = *storage::write_daybook(
      folder / "whole.daybook", daybook::build_daybook(table_of(lines, all_of(lines)))->daybook, kProvenance);
  storage::SortedRuns runs(folder.path());
  for (std::size_t part = 0; part < 3; ++part) {
    std::vector<std::size_t> chosen;
    for (std::size_t i = 0; i < lines.sales.size(); ++i)
      if (i / 3 % 3 == part) chosen.push_back(i);
    ASSERT_TRUE(runs.add(table_of(lines, chosen)));
  }
  storage::MergedSales merged = *storage::MergedSales::make(std::move(runs));
  const daybook::BuiltDaybook built = merged.take_built();
  auto target = storage::DaybookTarget::lock(folder / "merged.daybook");
  EXPECT_EQ(*target->write(merged, built.daybook, kProvenance), wanted);
}

/// Any changed byte of a run is reported: nothing of it becomes part of a daybook.
RC_GTEST_PROP(SortedRuns, ReportDamage, ()) {
  const Lines lines{random_sales(), {}};
  const TemporaryFolder folder;
  storage::SortedRuns runs(folder.path());
  RC_ASSERT(runs.add(table_of(lines, all_of(lines))).has_value());
  std::string bytes = read_file(folder / "run-1");
  const auto at = static_cast<std::size_t>(pick(0, static_cast<int>(bytes.size()) - 1));
  bytes[at] = static_cast<char>(bytes[at] ^ (1 << pick(0, 7)));
  folder.write("run-1", bytes);
  auto merged = storage::MergedSales::make(std::move(runs));
  if (!merged) return;
  const daybook::BuiltDaybook built = merged->take_built();
  auto target = storage::DaybookTarget::lock(folder / "merged.daybook");
  const auto written = target->write(*merged, built.daybook, kProvenance);
  RC_ASSERT(!written.has_value());
  RC_ASSERT(written.error().message.find("checksum") != std::string::npos);
}

TEST(SortedRuns, NeedLines) {
  const TemporaryFolder folder;
  const auto merged = storage::MergedSales::make(storage::SortedRuns(folder.path()));
  ASSERT_FALSE(merged);
  EXPECT_EQ(merged.error().message, "there are no lines.");
}

}  // namespace
}  // namespace pear::test
