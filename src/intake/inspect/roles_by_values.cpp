#include "intake/inspect/roles_by_values.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <optional>
#include <utility>

#include <fmt/format.h>

#include "base/text.hpp"
#include "expression/evaluate/functions.hpp"
#include "intake/inspect/guess_formats.hpp"
#include "intake/inspect/sample_columns.hpp"

namespace pear::intake {
namespace {

namespace role = daybook::role;

constexpr double kMostly = 0.9;

class RoleFinder {
 public:
  RoleFinder(const SourceProfile& source, std::map<std::string_view, std::size_t> known)
      : source_(source), known_(std::move(known)), sample_(source) {}

  std::vector<ValueRole> run() {
    if (sample_.rows() < kFewestRows) return {};
    find_date();
    find_order();
    find_customer();
    find_product();
    find_product_of_numbers();
    find_quantity_and_price();
    return std::move(found_);
  }

 private:
  static constexpr std::size_t kFewestRows = 10;

  [[nodiscard]] std::optional<std::size_t> column_of(std::string_view name) const {
    const auto found = known_.find(name);
    return found == known_.end() ? std::nullopt : std::optional(found->second);
  }
  [[nodiscard]] bool is_free(std::size_t column) const {
    return source_.columns[column].filled() > 0 &&
           std::none_of(known_.begin(), known_.end(),
                        [&](const auto& each) { return each.second == column; });
  }
  [[nodiscard]] bool is_date(std::size_t column) const {
    const ColumnProfile& profile = source_.columns[column];
    return profile.dates * 10 > profile.filled() * 9 || profile.compact_dates * 10 > profile.filled() * 9;
  }
  /// Numbers to calculate with, not article numbers such as 00412.
  [[nodiscard]] bool is_number(std::size_t column) const {
    const ColumnProfile& profile = source_.columns[column];
    return holds(profile, ColumnKind::number) && profile.leading_zeros == 0 && !is_date(column);
  }
  [[nodiscard]] bool has_decimals(std::size_t column) const {
    const ColumnProfile& profile = source_.columns[column];
    return profile.point_decimals + profile.comma_decimals > 0 || profile.dressed_numbers > 0;
  }
  /// Texts, and whole numbers, of which no row lacks one.
  [[nodiscard]] bool may_be_id(std::size_t column) const {
    return is_free(column) && !is_date(column) && !has_decimals(column) &&
           sample_.filled(column) * 10 > sample_.rows() * 9;
  }

  void assign(std::string_view name, std::size_t column, const std::string& why) {
    known_[name] = column;
    found_.push_back({name, column, std::string(kByValues) + why});
  }

  /// Of the dates that most rows have, and that differ as often as any: the earliest, since deliveries and
  /// payments follow an order.
  void find_date() {
    if (column_of(role::kOrderDate)) return;
    std::vector<std::size_t> dates;
    std::size_t most = 0;
    for (std::size_t column = 0; column < source_.columns.size(); ++column) {
      if (!is_free(column) || !is_date(column) || sample_.filled(column) * 10 < sample_.rows() * 9) continue;
      dates.push_back(column);
      most = std::max(most, sample_.distinct(column));
    }
    std::erase_if(dates, [&](std::size_t column) { return sample_.distinct(column) * 2 < most; });
    if (dates.empty()) return;
    const auto earliest = std::min_element(
        dates.begin(), dates.end(), [&](std::size_t a, std::size_t b) { return mean_day(a) < mean_day(b); });
    assign(role::kOrderDate, *earliest,
           dates.size() == 1 ? "they are dates" : "they are dates, and the earliest of each row");
  }

  /// Of the values as yyyymmdd.
  [[nodiscard]] double mean_day(std::size_t column) const {
    double sum = 0;
    for (const auto& row : source_.first_rows) {
      const ValueShape shape = shape_of(expression::trimmed(row[column]));
      sum += shape.shape == Shape::date ? shape.date.day_first : shape.number.value;
    }
    return sum;
  }

  /// Of the columns that determine the date and repeat, the one with most values.
  void find_order() {
    const auto date = column_of(role::kOrderDate);
    if (column_of(role::kOrderId) || !date) return;
    std::optional<std::size_t> best, unique;
    for (std::size_t column = 0; column < source_.columns.size(); ++column) {
      if (!may_be_id(column) || column == *date) continue;
      if (!sample_.repeats(column)) {
        if (!unique) unique = column;
      } else if (sample_.determines(column, *date) > 0.98 &&
                 sample_.distinct(column) > sample_.distinct(*date) / 2 &&
                 (!best || sample_.distinct(column) > sample_.distinct(*best))) {
        best = column;
      }
    }
    if (best)
      assign(role::kOrderId, *best,
             fmt::format("each of {} has one date", counted(sample_.distinct(*best), "value")));
    else if (unique)
      assign(role::kOrderId, *unique, "each occurs once");
  }

  /// Ids have digits; names do not.
  [[nodiscard]] bool looks_like_id(std::size_t column) const {
    const auto& samples = source_.columns[column].samples;
    return std::any_of(samples.begin(), samples.end(), [](const std::string& text) {
      return text.find_first_of("0123456789") != std::string::npos && text.find(' ') == std::string::npos;
    });
  }
  /// Of two columns with the same information the one with ids; otherwise the one with more values.
  [[nodiscard]] bool is_better_id(std::size_t column, std::optional<std::size_t> best) const {
    if (!best) return true;
    const bool same = sample_.determines(column, *best) > 0.98 && sample_.determines(*best, column) > 0.98;
    if (same && looks_like_id(column) != looks_like_id(*best)) return looks_like_id(column);
    return sample_.distinct(column) > sample_.distinct(*best);
  }

  void find_customer() {
    const auto order = column_of(role::kOrderId);
    if (column_of(role::kCustomerId) || !order || !sample_.repeats(*order)) return;
    constexpr std::size_t kMostOrders = 20;  // on average, in the sample; branches and sellers have more
    std::optional<std::size_t> best;
    for (std::size_t column = 0; column < source_.columns.size(); ++column) {
      const bool fits = may_be_id(column) &&
                        sample_.distinct(column) * kMostOrders >= sample_.distinct(*order) &&
                        sample_.determines(*order, column) > 0.98 &&
                        sample_.distinct(column) < sample_.distinct(*order) && sample_.distinct(column) > 1;
      if (fits && is_better_id(column, best)) best = column;
    }
    if (best)
      assign(role::kCustomerId, *best,
             fmt::format("each order has one, and {} for {}", counted(sample_.distinct(*best), "value"),
                         counted(sample_.distinct(*order), "order")));
  }

  [[nodiscard]] bool may_be_product(std::size_t column, std::size_t order) const {
    return may_be_id(column) && sample_.repeats(column) && sample_.determines(order, column) < 0.5 &&
           sample_.determines(column, order) < 0.5;
  }

  void find_product() {
    const auto order = column_of(role::kOrderId);
    if (column_of(role::kProductId) || !order) return;
    std::optional<std::size_t> best;
    for (std::size_t column = 0; column < source_.columns.size(); ++column)
      if (!is_number(column) && may_be_product(column, *order) && is_better_id(column, best)) best = column;
    assign_product(best);
  }

  /// Article numbers such as 4711: whole numbers that a text names, or that are all large.
  void find_product_of_numbers() {
    const auto order = column_of(role::kOrderId);
    const auto named = column_of(role::kProductId);
    if (!order || (named && (looks_like_id(*named) || !is_ours(*named)))) return;
    for (std::size_t column = 0; column < source_.columns.size(); ++column) {
      if (!is_number(column) || !may_be_product(column, *order)) continue;
      const bool has_name = named && sample_.determines(column, *named) > 0.98 &&
                            sample_.distinct(column) * 10 >= sample_.distinct(*named) * 9;
      const bool is_long =
          source_.columns[column].smallest.size() >= 3 && source_.columns[column].negative == 0;
      if (!has_name && (named || !is_long)) continue;
      std::erase_if(found_, [](const ValueRole& each) { return each.role == role::kProductId; });
      known_.erase(role::kProductId);
      return assign_product(column);
    }
  }
  [[nodiscard]] bool is_ours(std::size_t column) const {
    return std::any_of(found_.begin(), found_.end(),
                       [&](const ValueRole& each) { return each.column == column; });
  }

  void assign_product(std::optional<std::size_t> column) {
    if (!column) return;
    assign(role::kProductId, *column,
           fmt::format("orders have several of its {}", counted(sample_.distinct(*column), "value")));
  }

  [[nodiscard]] std::vector<double> numbers_of(std::size_t column) const {
    std::vector<double> numbers;
    for (const auto& row : source_.first_rows) {
      const ValueShape shape = shape_of(expression::trimmed(row[column]));
      numbers.push_back(shape.shape == Shape::number ? shape.number.value : std::nan(""));
    }
    return numbers;
  }

  /// Rows in which a x b is c to the cent, as a share of those that show anything: with another number
  /// than 1.
  static double share_of_products(const std::vector<double>& a, const std::vector<double>& b,
                                  const std::vector<double>& c) {
    std::size_t rows = 0, equal = 0;
    for (std::size_t row = 0; row < a.size(); ++row) {
      if (std::isnan(a[row] + b[row] + c[row]) || a[row] == 1 || b[row] == 1 || a[row] == 0 || b[row] == 0)
        continue;
      ++rows;
      if (std::abs(a[row] * b[row] - c[row]) <= 0.011) ++equal;
    }
    return rows < 5 ? 0 : static_cast<double>(equal) / static_cast<double>(rows);
  }

  [[nodiscard]] double share_of_whole(const std::vector<double>& numbers) const {
    const auto whole = std::count_if(numbers.begin(), numbers.end(),
                                     [](double number) { return number == std::floor(number); });
    return static_cast<double>(whole) / static_cast<double>(std::max<std::size_t>(1, numbers.size()));
  }

  void find_quantity_and_price() {
    if (column_of(role::kQuantity) && column_of(role::kUnitPrice)) return;
    std::vector<std::pair<std::size_t, std::vector<double>>> columns;
    constexpr std::size_t kMostColumns = 16;
    for (std::size_t column = 0; column < source_.columns.size() && columns.size() < kMostColumns; ++column) {
      const bool is_ours = column_of(role::kQuantity) == column || column_of(role::kUnitPrice) == column ||
                           column_of(role::kAmount) == column;
      if ((is_free(column) || is_ours) && is_number(column)) columns.emplace_back(column, numbers_of(column));
    }
    if (!find_products(columns)) find_apart(columns);
  }

  using Numbers = std::vector<std::pair<std::size_t, std::vector<double>>>;

  /// Three columns of which one is the product of the others.
  bool find_products(const Numbers& columns) {
    double best = kMostly;
    std::array<std::size_t, 3> place{};
    for (std::size_t a = 0; a < columns.size(); ++a) {
      for (std::size_t b = a + 1; b < columns.size(); ++b) {
        for (std::size_t c = 0; c < columns.size(); ++c) {
          if (c == a || c == b) continue;
          const double share = share_of_products(columns[a].second, columns[b].second, columns[c].second);
          if (share <= best) continue;
          best = share;
          place = {a, b, c};
        }
      }
    }
    if (best == kMostly) return false;
    auto [quantity, price, amount] = place;
    if (share_of_whole(columns[quantity].second) < share_of_whole(columns[price].second))
      std::swap(quantity, price);
    const std::string why =
        fmt::format("{} x {} = {} in {:.0f}% of the rows", columns_name(columns[quantity].first),
                    columns_name(columns[price].first), columns_name(columns[amount].first), 100 * best);
    assign_if_free(role::kQuantity, columns[quantity].first, why);
    assign_if_free(role::kUnitPrice, columns[price].first, why);
    assign_if_free(role::kAmount, columns[amount].first, why);
    return true;
  }
  [[nodiscard]] std::string columns_name(std::size_t column) const { return source_.columns[column].header; }
  void assign_if_free(std::string_view name, std::size_t column, const std::string& why) {
    if (!column_of(name) && is_free(column)) assign(name, column, why);
  }

  /// A quantity is a small whole number that is not the number of the line; a price has decimals, and a
  /// product mostly has one. Nothing where several columns are like that.
  void find_apart(const Numbers& columns) {
    const auto product = column_of(role::kProductId);
    if (!product) return;
    std::vector<std::size_t> quantities, prices;
    double steadiness = 0;
    for (const auto& [column, numbers] : columns) {
      if (!is_free(column)) continue;
      constexpr double kLargest = 1'000;
      const double whole = share_of_whole(numbers);
      const bool is_small = std::none_of(numbers.begin(), numbers.end(),
                                         [](double number) { return std::abs(number) > kLargest; });
      const double steady = sample_.determines(*product, column);
      if (whole > 0.95 && is_small && steady < 0.5 && !numbers_lines(numbers)) quantities.push_back(column);
      if (whole < 0.95 && steady > 0.5) {
        prices.push_back(column);
        steadiness = steady;
      }
    }
    if (quantities.size() == 1)
      assign_if_free(role::kQuantity, quantities.front(), "the only small whole numbers");
    if (prices.size() == 1)
      assign_if_free(role::kUnitPrice, prices.front(),
                     fmt::format("{:.0f}% of the products have one value", 100 * steadiness));
  }

  /// Whether the numbers count 1, 2, 3, ... and begin again.
  static bool numbers_lines(const std::vector<double>& numbers) {
    std::size_t counting = 0;
    for (std::size_t row = 0; row < numbers.size(); ++row)
      if (numbers[row] == 1 || (row > 0 && numbers[row] == numbers[row - 1] + 1)) ++counting;
    return counting * 100 > numbers.size() * 95;
  }

  const SourceProfile& source_;
  std::map<std::string_view, std::size_t> known_;
  SampleColumns sample_;
  std::vector<ValueRole> found_;
};

}  // namespace

std::vector<ValueRole> roles_by_values(const SourceProfile& source,
                                       const std::map<std::string_view, std::size_t>& known) {
  return RoleFinder(source, known).run();
}

}  // namespace pear::intake
