#include "questions/first/first_buys.hpp"

#include <numeric>
#include <utility>

#include <tbb/parallel_for.h>

#include "daybook/walk_lines.hpp"
#include "result/table.hpp"

namespace pear::first {
namespace {

std::span<const std::int64_t> decimals(const daybook::Daybook& daybook, std::string_view name) {
  const daybook::Column* column = daybook.find(name);
  if (column == nullptr || column->level != daybook::Level::line) return {};
  return std::get<daybook::DecimalValues>(column->values).units;
}

/// Customers are split into this many blocks, which are processed separately.
constexpr std::uint32_t kBlocks = 64;

}  // namespace

std::int64_t BoughtFirst::price_paid() const {
  const auto sum = amount.total(), pieces = quantity.total();
  const auto each = sum && pieces ? price_of_piece(*sum, *pieces) : std::nullopt;
  return each ? each->units() : result::kEmptyCell;
}

template <class Visit>
void FirstBuys::find(std::uint32_t block, const Visit& visit) const {
  const auto bound = [&](std::uint32_t i) {
    return static_cast<std::uint32_t>(std::uint64_t{daybook_.customers()} * i / kBlocks);
  };
  std::vector<std::uint32_t> last(key_.distinct + 1, daybook::kNoMember);  // who bought it, by code
  daybook::walk_lines(daybook_, {bound(block), bound(block + 1)}, [&](const daybook::LinePlace& place) {
    if (!purchases_.is_of_product(place.line)) return;
    const std::uint32_t code = key_.codes[place.member(key_.level)];
    if (std::exchange(last[code], place.customer) != place.customer)
      visit(FirstBuy{place.customer, code, place.order});
  });
}

FirstBuys::FirstBuys(const daybook::Daybook& daybook, const expression::GroupKey& key)
    : daybook_(daybook),
      key_(key),
      purchases_(daybook),
      amounts_(daybook.amounts()),
      quantities_(decimals(daybook, daybook::role::kQuantity)),
      prices_(decimals(daybook, daybook::role::kUnitPrice)) {
  std::vector<std::size_t> next(kBlocks + 1);  // the first row of each block
  tbb::parallel_for(std::uint32_t{0}, kBlocks, [&](std::uint32_t block) {
    std::size_t rows = 0;
    find(block, [&](const FirstBuy&) { ++rows; });
    next[block + 1] = rows;
  });
  std::partial_sum(next.begin(), next.end(), next.begin());
  rows_.resize(next.back());
  tbb::parallel_for(std::uint32_t{0}, kBlocks, [&](std::uint32_t block) {
    FirstBuy* row = rows_.data() + next[block];
    find(block, [&](const FirstBuy& found) { *row++ = found; });
  });
}

BoughtFirst FirstBuys::bought(const FirstBuy& row) const {
  BoughtFirst sum;
  bool is_first = true;
  const daybook::Run lines = daybook_.lines_of(row.order);
  daybook::LinePlace place{lines.begin, row.order, row.customer};
  for (; place.line < lines.end; ++place.line) {
    place.product = daybook_.parts().line_products[place.line];
    if (key_.codes[place.member(key_.level)] != row.code || !purchases_.is_of_product(place.line)) continue;
    const std::int64_t price = prices_.empty() ? daybook::kEmptyUnits : prices_[place.line];
    sum.unit_price = is_first || sum.unit_price == price ? price : daybook::kEmptyUnits;
    is_first = false;
    sum.amount.add(Decimal::from_units(amounts_[place.line]));
    if (!quantities_.empty() && quantities_[place.line] != daybook::kEmptyUnits)
      sum.quantity.add(Decimal::from_units(quantities_[place.line]));
  }
  return sum;
}

}  // namespace pear::first
