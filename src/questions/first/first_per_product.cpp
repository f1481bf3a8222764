// When each customer first bought each product, or first bought in each category.
#include <algorithm>
#include <iterator>
#include <utility>

#include <fmt/format.h>

#include "analysis/member_column.hpp"
#include "analysis/parallel_fold.hpp"
#include "base/text.hpp"
#include "daybook/purchases.hpp"
#include "daybook/walk_lines.hpp"
#include "questions/first/tables.hpp"

namespace pear::first {
namespace {

/// The first order of a customer that has a value of the key, and what its lines of that value come to.
struct FirstBuy {
  std::uint32_t customer = 0, code = 0, order = 0;
  std::int64_t price = 0;  ///< of all of the lines, kEmptyUnits where they differ
  DecimalSum quantity, amount;
};

struct FirstsState {
  struct Seen {
    std::uint32_t customer = expression::kNoMember;
    std::size_t row = 0;
  };
  std::vector<FirstBuy> rows;
  std::vector<Seen> seen;  ///< by code: the last customer who was seen to buy it, and the row of that
};

std::span<const std::int64_t> decimals(const daybook::Daybook& daybook, std::string_view name) {
  const daybook::Column* column = daybook.find(name);
  if (column == nullptr || column->level != daybook::Level::line) return {};
  return std::get<daybook::DecimalValues>(column->values).units;
}

class FirstBuyer {
 public:
  FirstBuyer(const daybook::Daybook& daybook, const expression::GroupKey& key)
      : daybook_(daybook),
        purchases_(daybook),
        key_(key),
        amounts_(daybook.amounts()),
        quantities_(decimals(daybook, daybook::role::kQuantity)),
        prices_(decimals(daybook, daybook::role::kUnitPrice)) {}

  [[nodiscard]] FirstsState fresh() const { return {{}, std::vector<FirstsState::Seen>(key_.distinct + 1)}; }
  [[nodiscard]] bool with_quantities() const { return !quantities_.empty(); }

  void absorb(FirstsState& state, std::uint32_t customer) const {
    daybook::walk_lines(daybook_, {customer, customer + 1}, [&](const daybook::LinePlace& place) {
      if (purchases_.is_return(place.line)) return;
      const std::uint32_t code = key_.codes[place.member(key_.level)];
      FirstsState::Seen& seen = state.seen[code];
      const std::int64_t price = prices_.empty() ? daybook::kEmptyUnits : prices_[place.line];
      if (seen.customer != customer) {
        seen = {customer, state.rows.size()};
        state.rows.push_back({customer, code, place.order, price, {}, {}});
      }
      FirstBuy& row = state.rows[seen.row];
      if (row.order != place.order) return;
      if (row.price != price) row.price = daybook::kEmptyUnits;
      row.amount.add(Decimal::from_units(amounts_[place.line]));
      if (with_quantities() && quantities_[place.line] != daybook::kEmptyUnits)
        row.quantity.add(Decimal::from_units(quantities_[place.line]));
    });
  }

 private:
  const daybook::Daybook& daybook_;
  daybook::Purchases purchases_;
  const expression::GroupKey& key_;
  std::span<const std::int64_t> amounts_, quantities_, prices_;
};

/// The price that all lines have, or what a piece came to.
std::int64_t price_of(const FirstBuy& row) {
  if (row.price != daybook::kEmptyUnits) return row.price;
  const auto amount = row.amount.total();
  const auto quantity = row.quantity.total();
  const auto price = amount && quantity ? price_of_piece(*amount, *quantity) : std::nullopt;
  return price ? price->units() : result::kEmptyCell;
}

std::int64_t units_of(const DecimalSum& sum) {
  const auto total = sum.total();
  return total ? total->units() : result::kEmptyCell;
}

/// A column out of the rows.
template <class T, class Of>
std::vector<T> gathered(const std::vector<FirstBuy>& rows, Of of) {
  std::vector<T> values;
  values.reserve(rows.size());
  for (const FirstBuy& row : rows) values.push_back(of(row));
  return values;
}

}  // namespace

OrError<result::Table> first_of_each(const expression::LineView& lines, const Options& options) {
  const daybook::Daybook& daybook = lines.daybook();
  PEAR_ASSIGN(const expression::GroupKey key, entry_key(lines, options));
  const FirstBuyer buyer(daybook, key);
  FirstsState state = analysis::fold_customers(
      daybook, [&] { return buyer.fresh(); },
      [&](FirstsState& own, std::uint32_t customer) { buyer.absorb(own, customer); },
      [](FirstsState& earlier, FirstsState&& later) {
        earlier.rows.insert(earlier.rows.end(), later.rows.begin(), later.rows.end());
        later = {};
      });
  const std::vector<FirstBuy>& rows = state.rows;
  const std::string name = entry_name(options);
  result::Table table{
      name,
      fmt::format("First purchase of each {}", name),
      fmt::format("One row for each customer and {} that the customer bought, in order of time.", name),
      {}};
  std::replace(table.part.begin(), table.part.end(), ' ', '-');
  auto& columns = table.columns;
  const auto customers = gathered<std::uint32_t>(rows, [](const FirstBuy& row) { return row.customer; });
  columns.push_back(analysis::id_column("customer_id", "The customer.", daybook.customer_ids(), customers));
  PEAR_ASSIGN(std::vector<result::TableColumn> with,
              analysis::customer_columns(options.with, customers, lines));
  std::move(with.begin(), with.end(), std::back_inserter(columns));
  const auto codes = gathered<std::uint32_t>(rows, [](const FirstBuy& row) { return row.code; });
  columns.push_back(analysis::key_column(options.per->name,
                                         fmt::format("What was bought: {}.", options.per->text), key, codes));
  columns.back().always_shown = false;
  analysis::add_names(daybook, key, codes, columns);
  columns.push_back(result::integer_column(
      "first_date", result::Unit::date, "Date of the customer's first order with it.",
      gathered<std::int64_t>(rows,
                             [&](const FirstBuy& row) { return daybook.date_of_order(row.order).days; })));
  columns.push_back(result::text_column("first_order_id", "Id of that order.",
                                        daybook.order_ids().picked(gathered<std::uint32_t>(
                                            rows, [](const FirstBuy& row) { return row.order; }))));
  columns.push_back(result::integer_column(
      "quantity", result::Unit::number, "Pieces of it in that order, returned ones left out.",
      gathered<std::int64_t>(rows, [&](const FirstBuy& row) {
        return buyer.with_quantities() ? units_of(row.quantity) : result::kEmptyCell;
      })));
  columns.push_back(result::integer_column(
      "unit_price", result::Unit::money,
      "Price of a piece in that order; amount / quantity where several lines differ in price.",
      gathered<std::int64_t>(rows, price_of)));
  columns.push_back(result::integer_column(
      "amount", result::Unit::money, "Amount of it in that order, returned lines left out.",
      gathered<std::int64_t>(rows, [](const FirstBuy& row) { return units_of(row.amount); })));
  return table;
}

}  // namespace pear::first
