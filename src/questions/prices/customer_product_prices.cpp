#include "questions/prices/customer_product_prices.hpp"

#include <algorithm>
#include <atomic>
#include <limits>
#include <numeric>
#include <utility>

#include <tbb/parallel_for.h>

#include "daybook/purchases.hpp"
#include "daybook/walk_lines.hpp"

namespace pear::prices {

void Listed::add(const Listed& other) {
  quantity += other.quantity;
  amount += other.amount;
  value += other.value;
  highest = std::max(highest, other.highest);
}

std::int64_t Listed::price() const {
  return quantity == 0 ? daybook::kEmptyUnits : static_cast<std::int64_t>(divided_evenly(value, quantity));
}

double Listed::index() const {
  if (value == 0) return std::numeric_limits<double>::quiet_NaN();
  return static_cast<double>(amount) * Decimal::kScale / static_cast<double>(value);
}

namespace {

std::span<const std::int64_t> units_of(const daybook::Column* column) {
  if (column == nullptr) return {};
  return std::get<daybook::DecimalValues>(column->values).units;
}

/// Customers are split into this many blocks, which are processed separately.
constexpr std::uint32_t kBlocks = 64;

}  // namespace

/// Visits the lines twice: once to count the pairs of each product in each block of customers, and so the
/// position of each pair, and once to fill them in.
class PairGatherer {
 public:
  explicit PairGatherer(const daybook::Daybook& daybook)
      : daybook_(daybook),
        purchases_(daybook),
        products_(daybook.products()),
        amounts_(daybook.amounts()),
        quantities_(units_of(daybook.find(daybook::role::kQuantity))),
        list_column_(daybook.find(daybook::role::kListPrice)),
        list_prices_(units_of(list_column_)),
        counts_(std::size_t{kBlocks} * products_) {
    if (list_column_ != nullptr && list_column_->level == daybook::Level::product)
      found_.list_prices_.assign(list_prices_.begin(), list_prices_.end());
    found_.has_list_prices_ = list_column_ != nullptr;
  }

  OrError<CustomerProductPrices> gather() {
    for_blocks([&](std::uint32_t block) { count(block); });
    place();
    found_.pair_of_line_.assign(quantities_.size(), CustomerProductPrices::kNoPair);
    for_blocks([&](std::uint32_t block) { fill(block); });
    found_.left_out_ = left_out_;
    if (out_of_range_)
      return data_error(
          "the amounts or pieces of one product add up to more than 922 trillion. Look for impossible lines: "
          "pear-thread crosstab --down product_id --count \"max(amount), max(quantity)\"");
    return std::move(found_);
  }

 private:
  template <class Work>
  void for_blocks(const Work& work) const {
    tbb::parallel_for(std::uint32_t{0}, kBlocks, work);
  }

  [[nodiscard]] daybook::CustomerRun customers_of(std::uint32_t block) const {
    const auto bound = [&](std::uint32_t i) {
      return static_cast<std::uint32_t>(std::uint64_t{daybook_.customers()} * i / kBlocks);
    };
    return {bound(block), bound(block + 1)};
  }

  [[nodiscard]] bool tells_price(std::uint32_t line) const {
    return quantities_[line] > 0;  // kEmptyUnits is below
  }

  void count(std::uint32_t block) {
    std::vector<std::uint32_t> last(products_, daybook::kNoMember);
    std::uint32_t* counts = &counts_[std::size_t{block} * products_];
    std::uint64_t left_out = 0;
    daybook::walk_lines(daybook_, customers_of(block), [&](const daybook::LinePlace& place) {
      if (!purchases_.is_of_product(place.line)) return;
      left_out += tells_price(place.line) ? 0U : 1U;
      if (!tells_price(place.line) || last[place.product] == place.customer) return;
      last[place.product] = place.customer;
      ++counts[place.product];
    });
    left_out_ += left_out;
  }

  /// Counts become positions.
  void place() {
    found_.begins_.clear();
    std::uint32_t next = 0;
    for (std::uint32_t product = 0; product < products_; ++product) {
      found_.begins_.push_back(next);
      for (std::uint32_t block = 0; block < kBlocks; ++block) {
        std::uint32_t& count = counts_[std::size_t{block} * products_ + product];
        next += std::exchange(count, next);
      }
    }
    found_.begins_.push_back(next);
    found_.pairs_ = std::make_unique_for_overwrite<CustomerProductPrice[]>(next);
    if (list_column_ != nullptr && list_column_->level != daybook::Level::product)
      found_.listed_.resize(next);
  }

  void fill(std::uint32_t block) {
    struct Last {
      std::uint32_t customer = daybook::kNoMember, order = 0;
    };
    std::vector<Last> last(products_);
    std::uint32_t* next = &counts_[std::size_t{block} * products_];
    daybook::walk_lines(daybook_, customers_of(block), [&](const daybook::LinePlace& place) {
      if (!purchases_.is_of_product(place.line) || !tells_price(place.line)) return;
      Last& seen = last[place.product];
      const bool is_new = seen.customer != place.customer;
      if (is_new) ++next[place.product];
      const std::uint32_t pair = next[place.product] - 1;
      CustomerProductPrice& paid = found_.pairs_[pair];
      found_.pair_of_line_[place.line] = pair;
      if (is_new) paid = {place.product, place.customer, 0, 0, 0, INT64_MAX, INT64_MIN};
      if (is_new || seen.order != place.order) ++paid.orders;
      seen = {place.customer, place.order};
      add_line(place, paid);
      if (!found_.listed_.empty()) add_list_price(place, found_.listed_[pair]);
    });
  }

  void add_line(const daybook::LinePlace& place, CustomerProductPrice& paid) {
    const std::int64_t quantity = quantities_[place.line], amount = amounts_[place.line];
    const auto price = price_of_piece(Decimal::from_units(amount), Decimal::from_units(quantity));
    const bool fits = price && !__builtin_add_overflow(paid.quantity, quantity, &paid.quantity) &&
                      !__builtin_add_overflow(paid.amount, amount, &paid.amount);
    if (!fits) {
      out_of_range_ = true;
      return;
    }
    paid.lowest = std::min(paid.lowest, price->units());
    paid.highest = std::max(paid.highest, price->units());
  }

  void add_list_price(const daybook::LinePlace& place, Listed& listed) const {
    const std::int64_t price = list_prices_[place.member(list_column_->level)];
    if (price == daybook::kEmptyUnits) return;
    const std::int64_t quantity = quantities_[place.line];
    listed.add({quantity, amounts_[place.line], Int128{quantity} * price, price});
  }

  const daybook::Daybook& daybook_;
  daybook::Purchases purchases_;
  std::uint32_t products_;
  std::span<const std::int64_t> amounts_, quantities_;
  const daybook::Column* list_column_;
  std::span<const std::int64_t> list_prices_;
  std::vector<std::uint32_t> counts_;  ///< by block, then by product
  std::atomic<std::uint64_t> left_out_ = 0;
  std::atomic<bool> out_of_range_ = false;
  CustomerProductPrices found_;
};

OrError<CustomerProductPrices> CustomerProductPrices::gather(const daybook::Daybook& daybook) {
  return PairGatherer(daybook).gather();
}

CustomerProductPrices CustomerProductPrices::of_pairs(std::uint32_t products,
                                                      const std::vector<CustomerProductPrice>& pairs,
                                                      std::vector<Listed> listed, bool has_list_prices,
                                                      std::uint64_t left_out) {
  CustomerProductPrices made;
  made.begins_.assign(std::size_t{products} + 1, 0);
  for (const CustomerProductPrice& pair : pairs) ++made.begins_[pair.product + 1];
  std::partial_sum(made.begins_.begin(), made.begins_.end(), made.begins_.begin());
  made.pairs_ = std::make_unique_for_overwrite<CustomerProductPrice[]>(pairs.size());
  std::copy(pairs.begin(), pairs.end(), made.pairs_.get());
  made.listed_ = std::move(listed);
  made.has_list_prices_ = has_list_prices;
  made.left_out_ = left_out;
  return made;
}

Listed CustomerProductPrices::listed(std::size_t pair) const {
  if (!listed_.empty()) return listed_[pair];
  const CustomerProductPrice& paid = pairs_[pair];
  const std::int64_t price = list_prices_.empty() ? daybook::kEmptyUnits : list_prices_[paid.product];
  if (price == daybook::kEmptyUnits) return {};
  return {paid.quantity, paid.amount, Int128{paid.quantity} * price, price};
}

}  // namespace pear::prices
