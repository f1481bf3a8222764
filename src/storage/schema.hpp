// The tables of the daybook file, and the names of the arrays in it. docs/daybook-format.md describes them.
#pragma once

#include <string>
#include <string_view>
#include <vector>

#include "daybook/column.hpp"
#include "storage/page.hpp"

namespace pear::storage {

constexpr int kFormatVersion = 4;      ///< 4 distinguishes the runs of import, and excluded rows
constexpr int kFirstWithChecksum = 3;  ///< of the description
constexpr int kFirstWithRuns = 4;
constexpr int kOldestFormat = 2;
constexpr int kApplicationId = 0x50454152;  ///< "PEAR", in the header of the SQLite file

extern const char* const kSchema;

/// The table of customers, or products, of lists that have no line; only if there are any.
[[nodiscard]] std::string_view waiting_table(daybook::Level level);

/// Arrays of the structure. Those of columns have the column's name, their dictionaries the name and
/// ".dictionary".
namespace array_name {
constexpr std::string_view kOrdersPerCustomer = "customer.orders";
constexpr std::string_view kLinesPerOrder = "order.lines";
constexpr std::string_view kCustomerIds = "customer.customer_id";
constexpr std::string_view kProductIds = "product.product_id";
constexpr std::string_view kOrderIds = "order.order_id";
constexpr std::string_view kLineProducts = "line.product";
[[nodiscard]] std::string of_column(std::string_view column);
[[nodiscard]] std::string of_dictionary(std::string_view column);
}  // namespace array_name

/// The arrays of orders per customer and of lines per order, from offsets.
[[nodiscard]] std::vector<std::uint32_t> counts_of(const std::vector<std::uint32_t>& offsets);

/// The values of a column that mean "empty", by type of array.
template <class T>
constexpr T kEmptyOf = T{};
template <>
inline constexpr std::uint32_t kEmptyOf<std::uint32_t> = daybook::kEmptyCode;
template <>
inline constexpr std::int64_t kEmptyOf<std::int64_t> = daybook::kEmptyUnits;
template <>
inline constexpr std::int32_t kEmptyOf<std::int32_t> = daybook::kEmptyDays;
/// Flags are never empty; 255 is no flag.
template <>
inline constexpr std::uint8_t kEmptyOf<std::uint8_t> = 255;

/// The name, number of members and checksum of each segment, hashed to 128 bits in hex: equal for equal
/// daybooks, whatever their sources.
class Fingerprint {
 public:
  void add(std::string_view array, const Page& page);
  [[nodiscard]] std::string hex() const;

 private:
  std::string seen_;
};

}  // namespace pear::storage
