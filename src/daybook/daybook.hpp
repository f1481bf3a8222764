// The sales of a shop in memory: customers > orders > lines.
#pragma once

#include <cstdint>
#include <optional>
#include <span>
#include <string_view>
#include <utility>
#include <vector>

#include "base/date.hpp"
#include "base/decimal.hpp"
#include "base/text_array.hpp"
#include "daybook/column.hpp"

namespace pear::daybook {

/// A row that belongs to no member: its value is empty.
constexpr std::uint32_t kNoMember = std::numeric_limits<std::uint32_t>::max();

/// Names of the columns with a fixed role, as the intake file and the tables use them.
namespace role {
constexpr std::string_view kOrderId = "order_id";
constexpr std::string_view kOrderDate = "order_date";
constexpr std::string_view kOrderTime = "order_time";
constexpr std::string_view kCustomerId = "customer_id";
constexpr std::string_view kProductId = "product_id";
constexpr std::string_view kQuantity = "quantity";
constexpr std::string_view kUnitPrice = "unit_price";
constexpr std::string_view kAmount = "amount";
constexpr std::string_view kUnitCost = "unit_cost";
constexpr std::string_view kListPrice = "list_price";
constexpr std::string_view kCurrency = "currency";
constexpr std::string_view kValidFrom = "valid_from";
constexpr std::string_view kValidTo = "valid_to";
constexpr std::string_view kIsReturn = "is_return";
constexpr std::string_view kIsFee = "is_fee";  ///< only if the shop marks fees
}  // namespace role

/// A run of positions [begin, end) in the arrays of the level below.
struct Run {
  std::uint32_t begin = 0;
  std::uint32_t end = 0;
  [[nodiscard]] std::uint32_t size() const { return end - begin; }
};

/// The contents of a daybook. An array that was not loaded is empty, although its level is not.
struct DaybookParts {
  std::vector<std::uint32_t> order_offsets{0};  ///< per customer the first of its orders, and the end
  std::vector<std::uint32_t> line_offsets{0};   ///< per order the first of its lines, and the end
  std::uint32_t products = 0;
  TextArray customer_ids;                    ///< distinct, in natural order: customer c is the c-th id
  TextArray product_ids;                     ///< distinct, in natural order
  TextArray order_ids;                       ///< per order
  std::vector<std::uint32_t> line_products;  ///< per line: a position in product_ids
  std::vector<Column> columns;
  /// The last day of the whole data, which a selection does not change: set by completed().
  std::optional<Date> data_end = {};
  bool operator==(const DaybookParts&) const = default;
};

/// Three nested levels held as offset arrays over flat columns. Invariants:
///  1. customers are sorted by id in natural order, and each has at least one order;
///  2. orders of a customer are sorted by (date, time of day, order id), and each has at least one line;
///  3. lines of an order are sorted by (product, position in the source);
///  4. a column has as many values as its level has members.
/// So a customer's whole history is one contiguous span. Immutable once built, and safe to read from many
/// threads. A daybook may hold only some of its columns; asking for one that was not loaded throws
/// std::logic_error, because that is a defect of the caller, not of the data.
class Daybook {
 public:
  Daybook() = default;
  explicit Daybook(DaybookParts parts);
  Daybook(const Daybook& other) : Daybook(other.parts_) {}  // the pointers below are into its own columns
  Daybook(Daybook&&) noexcept = default;
  Daybook& operator=(const Daybook& other) { return *this = Daybook(other); }
  Daybook& operator=(Daybook&&) noexcept = default;
  ~Daybook() = default;

  [[nodiscard]] std::uint32_t customers() const { return count(parts_.order_offsets); }
  [[nodiscard]] std::uint32_t orders() const { return count(parts_.line_offsets); }
  [[nodiscard]] std::uint32_t lines() const { return parts_.line_offsets.back(); }
  [[nodiscard]] std::uint32_t products() const { return parts_.products; }
  [[nodiscard]] std::uint32_t members(Level level) const;

  [[nodiscard]] Run orders_of(std::uint32_t customer) const {
    return {parts_.order_offsets[customer], parts_.order_offsets[customer + 1]};
  }
  [[nodiscard]] Run lines_of(std::uint32_t order) const {
    return {parts_.line_offsets[order], parts_.line_offsets[order + 1]};
  }

  [[nodiscard]] const TextArray& customer_ids() const;
  [[nodiscard]] const TextArray& product_ids() const;
  [[nodiscard]] const TextArray& order_ids() const;
  [[nodiscard]] std::span<const std::uint32_t> line_products() const;

  [[nodiscard]] Date date_of_order(std::uint32_t order) const { return {order_days()[order]}; }
  [[nodiscard]] std::span<const std::int32_t> order_days() const;
  [[nodiscard]] std::span<const std::int64_t> amounts() const;       ///< per line, units of Decimal
  [[nodiscard]] std::span<const std::uint8_t> return_flags() const;  ///< per line, 1 for a return

  /// The column of this name, or null if the daybook has none or it was not loaded.
  [[nodiscard]] const Column* find(std::string_view name) const;

  [[nodiscard]] const DaybookParts& parts() const { return parts_; }
  [[nodiscard]] DaybookParts take_parts() && { return std::move(parts_); }

 private:
  static std::uint32_t count(const std::vector<std::uint32_t>& offsets) {
    return static_cast<std::uint32_t>(offsets.size() - 1);
  }
  DaybookParts parts_;
  const Column* order_date_ = nullptr;
  const Column* amount_ = nullptr;
  const Column* is_return_ = nullptr;
};

/// The same customers, orders and products without products and columns of lines, as if they had not been
/// loaded. This frees their memory once they are no longer needed.
[[nodiscard]] Daybook without_lines(Daybook daybook);

}  // namespace pear::daybook
