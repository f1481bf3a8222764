#include "questions/first/first_buys.hpp"

#include <algorithm>
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

/// Rows of the same order by their value, however the source has its lines.
void sort_within_orders(std::span<FirstBuy> rows) {
  for (auto begin = rows.begin(); begin != rows.end();) {
    const auto end =
        std::find_if(begin, rows.end(), [&](const FirstBuy& row) { return row.order != begin->order; });
    std::sort(begin, end, [](const FirstBuy& a, const FirstBuy& b) { return a.code < b.code; });
    begin = end;
  }
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
void FirstBuys::walk(std::uint32_t block, const Visit& visit) const {
  const auto bound = [&](std::uint32_t i) {
    return static_cast<std::uint32_t>(std::uint64_t{daybook_.customers()} * i / kBlocks);
  };
  std::vector<Seen> seen(key_.distinct + 1);  // the last customer who bought it, by code
  daybook::walk_lines(daybook_, {bound(block), bound(block + 1)}, [&](const daybook::LinePlace& place) {
    if (!purchases_.is_of_product(place.line)) return;
    const std::uint32_t code = key_.codes[place.member(key_.level)];
    visit(place, code, seen[code]);
  });
}

FirstBuys::FirstBuys(const daybook::Daybook& daybook, const expression::GroupKey& key)
    : daybook_(daybook),
      key_(key),
      purchases_(daybook),
      amounts_(daybook.amounts()),
      quantities_(decimals(daybook, daybook::role::kQuantity)),
      prices_(decimals(daybook, daybook::role::kUnitPrice)) {
  std::vector<std::size_t> begins(kBlocks + 1);  // the first row of each block
  tbb::parallel_for(std::uint32_t{0}, kBlocks, [&](std::uint32_t block) {
    walk(block, [&](const daybook::LinePlace& place, std::uint32_t, Seen& seen) {
      begins[block + 1] += std::exchange(seen.customer, place.customer) == place.customer ? 0U : 1U;
    });
  });
  std::partial_sum(begins.begin(), begins.end(), begins.begin());
  rows_.resize(begins.back());
  tbb::parallel_for(std::uint32_t{0}, kBlocks, [&](std::uint32_t block) {
    std::size_t next = begins[block];
    walk(block, [&](const daybook::LinePlace& place, std::uint32_t code, Seen& seen) {
      if (seen.customer != place.customer) {
        seen = {place.customer, next};
        rows_[next++] = {place.customer, code, place.order, place.line};
      } else if (rows_[seen.row].order == place.order) {
        rows_[seen.row].is_only = false;
      }
    });
    sort_within_orders(std::span(rows_).subspan(begins[block], next - begins[block]));
  });
}

BoughtFirst FirstBuys::bought(const FirstBuy& row) const {
  BoughtFirst sum;
  const daybook::Run lines = daybook_.lines_of(row.order);
  daybook::LinePlace place{row.line, row.order, row.customer};
  const std::uint32_t end = row.is_only ? row.line + 1 : lines.end;
  for (; place.line < end; ++place.line) {
    if (place.line != row.line) {
      place.product = daybook_.parts().line_products[place.line];
      if (key_.codes[place.member(key_.level)] != row.code || !purchases_.is_of_product(place.line)) continue;
    }
    const std::int64_t price = prices_.empty() ? daybook::kEmptyUnits : prices_[place.line];
    sum.unit_price = place.line == row.line || sum.unit_price == price ? price : daybook::kEmptyUnits;
    sum.amount.add(Decimal::from_units(amounts_[place.line]));
    if (!quantities_.empty() && quantities_[place.line] != daybook::kEmptyUnits)
      sum.quantity.add(Decimal::from_units(quantities_[place.line]));
  }
  return sum;
}

}  // namespace pear::first
