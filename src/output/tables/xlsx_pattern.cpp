#include "output/tables/xlsx_pattern.hpp"

#include <algorithm>

#include <fmt/format.h>

namespace pear::output {
namespace {

/// None if all values are whole; otherwise two or, if that is not enough, four.
int places_of(const result::TableColumn& column) {
  constexpr std::int64_t kHundredth = Decimal::kScale / 100;
  int places = 0;
  for (std::size_t row = 0; row < column.size() && places < 4; ++row) {
    if (column.is_empty(row)) continue;
    const std::int64_t units = column.integer(row);
    places = std::max(places, units % Decimal::kScale == 0 ? 0 : units % kHundredth == 0 ? 2 : 4);
  }
  return places;
}

}  // namespace

std::string cell_pattern(const result::TableColumn& column, const std::string& currency) {
  const auto decimals = [](int places) {
    return places > 0 ? "." + std::string(static_cast<std::size_t>(places), '0') : std::string();
  };
  switch (column.unit) {
    case result::Unit::text:
      return "@";
    case result::Unit::count:
    case result::Unit::days:
      return "#,##0";
    case result::Unit::date:
      return "yyyy-mm-dd";
    case result::Unit::money: {
      const std::string number = "#,##0" + decimals(column.places < 0 ? 2 : column.places);
      const bool is_code = !currency.empty() && std::all_of(currency.begin(), currency.end(),
                                                            [](char c) { return c >= 'A' && c <= 'Z'; });
      return is_code ? fmt::format("{} \"{}\"", number, currency) : number;
    }
    case result::Unit::number:
      return "#,##0" + decimals(column.places < 0 ? places_of(column) : column.places);
    case result::Unit::share:
      return "0.0%";
    case result::Unit::probability:
      return "0.0000";
  }
  return "";
}

}  // namespace pear::output
