#include "questions/first/first_buys.hpp"

#include <utility>

#include "analysis/parallel_fold.hpp"
#include "daybook/purchases.hpp"
#include "daybook/walk_lines.hpp"
#include "result/table.hpp"

namespace pear::first {
namespace {

struct FirstsState {
  struct Seen {
    std::uint32_t customer = daybook::kNoMember;
    std::size_t row = 0;
  };
  std::vector<FirstBuy> rows;
  std::vector<Seen> seen;  ///< by code: the last customer seen to buy it, and that customer's row
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

  void absorb(FirstsState& state, std::uint32_t customer) const {
    daybook::walk_lines(daybook_, {customer, customer + 1}, [&](const daybook::LinePlace& place) {
      if (!purchases_.is_of_product(place.line)) return;
      const std::uint32_t code = key_.codes[place.member(key_.level)];
      FirstsState::Seen& seen = state.seen[code];
      const std::int64_t price = prices_.empty() ? daybook::kEmptyUnits : prices_[place.line];
      if (seen.customer != customer) {
        seen = {customer, state.rows.size()};
        state.rows.push_back({customer, code, place.order, price, {}, {}});
      }
      FirstBuy& row = state.rows[seen.row];
      if (row.order != place.order) return;
      if (row.unit_price != price) row.unit_price = daybook::kEmptyUnits;
      row.amount.add(Decimal::from_units(amounts_[place.line]));
      if (!quantities_.empty() && quantities_[place.line] != daybook::kEmptyUnits)
        row.quantity.add(Decimal::from_units(quantities_[place.line]));
    });
  }

 private:
  const daybook::Daybook& daybook_;
  daybook::Purchases purchases_;
  const expression::GroupKey& key_;
  std::span<const std::int64_t> amounts_, quantities_, prices_;
};

}  // namespace

std::int64_t FirstBuy::price_paid() const {
  const auto sum = amount.total(), pieces = quantity.total();
  const auto each = sum && pieces ? price_of_piece(*sum, *pieces) : std::nullopt;
  return each ? each->units() : result::kEmptyCell;
}

std::vector<FirstBuy> first_buys(const daybook::Daybook& daybook, const expression::GroupKey& key) {
  const FirstBuyer buyer(daybook, key);
  FirstsState state = analysis::fold_customers(
      daybook, [&] { return buyer.fresh(); },
      [&](FirstsState& own, std::uint32_t customer) { buyer.absorb(own, customer); },
      [](FirstsState& earlier, FirstsState&& later) {
        earlier.rows.insert(earlier.rows.end(), later.rows.begin(), later.rows.end());
        later = {};
      });
  return std::move(state.rows);
}

}  // namespace pear::first
