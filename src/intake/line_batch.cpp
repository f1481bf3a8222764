#include "intake/line_batch.hpp"

#include <algorithm>
#include <deque>
#include <optional>
#include <utility>

#include <fmt/format.h>
#include <unicode/utf8.h>

#include "base/date.hpp"
#include "intake/batch_dictionary.hpp"

namespace pear {
namespace {

bool is_utf8(std::string_view text) {
  const auto* bytes = reinterpret_cast<const std::uint8_t*>(text.data());
  const auto size = static_cast<std::int32_t>(text.size());
  for (std::int32_t at = 0; at < size;) {
    UChar32 character = 0;
    U8_NEXT(bytes, at, size, character);
    if (character < 0) return false;
  }
  return true;
}

struct Fault {
  std::size_t column = 0;
  std::string reason;
};

/// The numbers of one row.
struct Numbers {
  Decimal quantity, unit_price;
  std::optional<Decimal> given_amount, unit_cost, list_price;
};

/// Reads rows one after another into a batch.
class RowReader {
 public:
  RowReader(LineBatch& batch, const HeaderMap& map) : batch_(batch), map_(map) {
    for (BatchTexts& extra : batch_.extras) extras_.emplace_back(extra);
    hints_.resize(map.extras.size());
  }

  /// Adds the row to the batch, or says what is wrong with it. Its amount is summed up either way.
  std::optional<Fault> read(std::size_t row) {
    row_ = row;
    Numbers numbers;
    std::optional<Fault> number_fault = read_numbers(numbers);
    std::optional<Fault> fault = check_ids();
    if (!fault) fault = read_moment();
    if (!fault) fault = number_fault;
    if (!fault) fault = check_extras();
    const std::optional<Decimal> amount = amount_of(numbers, number_fault.has_value());
    if (!fault && !amount) fault = Fault{*map_.position(Role::quantity), "times unit_price is too large"};
    add_to_sums(amount, !fault);
    if (!fault) keep(numbers, *amount);
    return fault;
  }

 private:
  [[nodiscard]] std::string_view text(Role role) const {
    return batch_.rows->field(row_, *map_.position(role));
  }

  [[nodiscard]] bool is_text(std::string_view value) const { return batch_.rows->is_ascii || is_utf8(value); }

  [[nodiscard]] std::optional<Fault> check_ids() const {
    for (const Role role : {Role::order_id, Role::customer_id, Role::product_id}) {
      if (text(role).empty()) return Fault{*map_.position(role), "is empty"};
      if (!is_text(text(role))) return Fault{*map_.position(role), "is not UTF-8 text"};
    }
    return std::nullopt;
  }

  [[nodiscard]] std::optional<Fault> check_extras() const {
    if (batch_.rows->is_ascii) return std::nullopt;
    for (const HeaderMap::Extra& extra : map_.extras) {
      if (!is_text(batch_.rows->field(row_, extra.column))) return Fault{extra.column, "is not UTF-8 text"};
    }
    return std::nullopt;
  }

  /// Exports stand in order of time, so most dates are the one before.
  std::optional<Fault> read_moment() {
    const std::string_view date = text(Role::order_date);
    if (date == last_date_) return std::nullopt;
    const auto moment = parse_iso_moment(date);
    if (!moment) return Fault{*map_.position(Role::order_date), std::string(describe(moment.error()))};
    last_date_ = date;
    moment_ = *moment;
    return std::nullopt;
  }

  /// Reads all numbers that can be read; the first fault among them.
  std::optional<Fault> read_numbers(Numbers& numbers) const {
    std::optional<Fault> fault;
    const auto read = [&](Role role, bool required, auto& number) {
      if (!map_.position(role) || (!required && text(role).empty())) return;
      const auto parsed = Decimal::parse(text(role));
      if (parsed) {
        number = *parsed;
      } else if (!fault) {
        fault = Fault{*map_.position(role), std::string(describe(parsed.error()))};
      }
    };
    read(Role::quantity, true, numbers.quantity);
    read(Role::unit_price, true, numbers.unit_price);
    read(Role::amount, false, numbers.given_amount);
    read(Role::unit_cost, false, numbers.unit_cost);
    read(Role::list_price, false, numbers.list_price);
    return fault;
  }

  /// The amount as given, otherwise quantity times price; nothing where neither can be read.
  [[nodiscard]] static std::optional<Decimal> amount_of(const Numbers& numbers, bool faulty) {
    if (numbers.given_amount) return numbers.given_amount;
    return faulty ? std::nullopt : checked_multiply(numbers.quantity, numbers.unit_price);
  }

  void add_to_sums(std::optional<Decimal> amount, bool kept) {
    if (!amount) {
      ++batch_.sums.unreadable;
      return;
    }
    batch_.sums.read.add(*amount);
    (kept ? batch_.sums.kept : batch_.sums.rejected).add(*amount);
  }

  void keep(const Numbers& numbers, Decimal amount) {
    orders_.add(text(Role::order_id));
    customers_.add(text(Role::customer_id));
    const std::uint32_t product = products_.add(text(Role::product_id));
    for (std::size_t i = 0; i < map_.extras.size(); ++i) {
      std::vector<std::uint32_t>& of_product = hints_[i];
      if (of_product.size() <= product) of_product.resize(product + 1, kEmptyCode);
      of_product[product] =
          extras_[i].add(batch_.rows->field(row_, map_.extras[i].column), of_product[product]);
    }
    batch_.days.push_back(moment_.date.days);
    batch_.seconds.push_back(moment_.second_of_day);
    batch_.any_time |= moment_.second_of_day != Moment::kNoTime;
    batch_.quantities.push_back(numbers.quantity.units());
    batch_.unit_prices.push_back(numbers.unit_price.units());
    batch_.amounts.push_back(amount.units());
    const auto keep_optional = [&](Role role, std::optional<Decimal> number,
                                   std::vector<std::int64_t>& values) {
      if (map_.position(role)) values.push_back(number ? number->units() : kEmptyUnits);
    };
    keep_optional(Role::unit_cost, numbers.unit_cost, batch_.unit_costs);
    keep_optional(Role::list_price, numbers.list_price, batch_.list_prices);
    batch_.is_return.push_back(numbers.quantity.units() < 0 || amount.units() < 0 ? 1 : 0);
  }

  LineBatch& batch_;
  const HeaderMap& map_;
  BatchDictionary orders_{batch_.orders};
  BatchDictionary customers_{batch_.customers};
  BatchDictionary products_{batch_.products};
  std::deque<BatchDictionary> extras_;
  std::size_t row_ = 0;
  std::string_view last_date_;
  Moment moment_;
  /// By extra column and product: the code that the column had on the product's last line, which is a good
  /// guess for columns that tell of products.
  std::vector<std::vector<std::uint32_t>> hints_;
};

}  // namespace

LineBatch read_lines(CsvRows rows, const HeaderMap& map, const std::vector<std::string>& header,
                     char delimiter) {
  LineBatch batch;
  batch.rows = std::make_unique<const CsvRows>(std::move(rows));
  const CsvRows& read = *batch.rows;
  batch.rows_read = read.size() + read.malformed.size();
  batch.sums.unreadable = read.malformed.size();
  for (const MalformedRow& row : read.malformed)
    batch.rejected.push_back({row.line, "", "", row.reason, row.kind, row.text});
  batch.extras.resize(map.extras.size());
  RowReader reader(batch, map);
  for (std::size_t row = 0; row < read.size(); ++row) {
    if (auto fault = reader.read(row)) {
      batch.rejected.push_back({read.lines[row], header[fault->column],
                                std::string(read.field(row, fault->column)), fault->reason, fault->reason,
                                read.record(row, delimiter)});
    }
  }
  std::stable_sort(batch.rejected.begin(), batch.rejected.end(),
                   [](const RejectedRow& a, const RejectedRow& b) { return a.line < b.line; });
  return batch;
}

}  // namespace pear
