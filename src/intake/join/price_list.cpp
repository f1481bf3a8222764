#include "intake/join/price_list.hpp"

#include <algorithm>
#include <limits>
#include <string>
#include <utility>
#include <vector>

#include <absl/container/flat_hash_map.h>
#include <fmt/format.h>

#include "base/date.hpp"
#include "base/text.hpp"
#include "base/text_hash.hpp"
#include "daybook/daybook.hpp"
#include "expression/expression.hpp"

namespace pear::intake {
namespace {

/// A row of the price list. Both days are included.
struct Valid {
  std::int32_t from = std::numeric_limits<std::int32_t>::min();
  std::int32_t to = std::numeric_limits<std::int32_t>::max();
  std::uint32_t row = 0;
};

std::string from_text(const Valid& valid) {
  return valid.from == std::numeric_limits<std::int32_t>::min() ? "ever" : to_text(Date{valid.from});
}

/// The prices of each product, in order of time, without overlap.
class PriceList {
 public:
  static OrError<PriceList> make(const RawTable& table) {
    PriceList list(table);
    PEAR_TRY(list.gather());
    PEAR_TRY(list.settle());
    return list;
  }

  [[nodiscard]] const daybook::TextValues& products() const { return products_; }

  /// The row that applies to a product, by its code, on a day; kNoMember if there is none.
  [[nodiscard]] std::uint32_t row_on(std::uint32_t product, std::int32_t day) const {
    const std::vector<Valid>& prices = prices_[product];
    auto after = std::upper_bound(prices.begin(), prices.end(), day,
                                  [](std::int32_t value, const Valid& valid) { return value < valid.from; });
    return after == prices.begin() || (--after)->to < day ? daybook::kNoMember : after->row;
  }

 private:
  explicit PriceList(const RawTable& table)
      : table_(table),
        products_(table.texts(daybook::role::kProductId)),
        prices_(products_.dictionary.size()) {}

  [[nodiscard]] const std::vector<std::int32_t>* days(std::string_view name) const {
    const RawColumn* column = table_.find(name);
    return column == nullptr ? nullptr : &std::get<daybook::DateValues>(column->values).days;
  }

  [[nodiscard]] std::string place(std::uint32_t row) const {
    return fmt::format("line {} of {}", table_.lines[row], table_.sources[table_.source_of(row)].record.name);
  }

  OrError<void> gather() {
    const auto* from = days(daybook::role::kValidFrom);
    const auto* to = days(daybook::role::kValidTo);
    for (std::uint32_t row = 0; row < table_.rows(); ++row) {
      Valid valid;
      valid.row = row;
      if (from != nullptr && (*from)[row] != daybook::kEmptyDays) valid.from = (*from)[row];
      if (to != nullptr && (*to)[row] != daybook::kEmptyDays) valid.to = (*to)[row];
      if (valid.to < valid.from)
        return data_error(fmt::format("[prices]: the price on {} ends on {}, before it begins on {}.",
                                      place(row), to_text(Date{valid.to}), to_text(Date{valid.from})));
      prices_[products_.codes[row]].push_back(valid);
    }
    return {};
  }

  /// A price without end applies until the next one begins.
  OrError<void> settle() {
    std::vector<std::string> twice;
    for (std::vector<Valid>& prices : prices_) {
      std::stable_sort(prices.begin(), prices.end(),
                       [](const Valid& a, const Valid& b) { return a.from < b.from; });
      for (std::size_t i = 1; i < prices.size(); ++i) {
        Valid& before = prices[i - 1];
        if (before.to == std::numeric_limits<std::int32_t>::max() && before.from < prices[i].from)
          before.to = prices[i].from - 1;
        if (before.to < prices[i].from) continue;
        const std::uint32_t code = products_.codes[before.row];
        twice.push_back(fmt::format("{} from {} ({} and line {})", in_quotes(products_.dictionary[code]),
                                    from_text(prices[i]), place(before.row), table_.lines[prices[i].row]));
      }
    }
    if (twice.empty()) return {};
    const std::size_t all = twice.size();
    constexpr std::size_t kExamples = 3;
    twice.resize(std::min(all, kExamples));
    return data_error(
        fmt::format("[prices]: {} two prices on one day: {}{}. Correct valid_to, or drop the surplus with "
                    "[[duplicates]] in = \"prices\".",
                    counted(all, "product has", "times a product has"), join(twice, ", "),
                    all > kExamples ? ", ..." : ""));
  }

  const RawTable& table_;
  const daybook::TextValues& products_;
  std::vector<std::vector<Valid>> prices_;  ///< by code of the product
};

/// Looks up, line by line.
class LookUp {
 public:
  LookUp(JoinedLines& lines, const RawTable& prices) : lines_(lines), table_(prices) {}

  OrError<void> run(const std::vector<std::uint8_t>& is_fee) {
    PEAR_ASSIGN(const PriceList list, PriceList::make(table_));
    find_rows(list);
    count(list, is_fee);
    std::vector<std::int64_t> prices = units();
    lines_.set_list_prices(std::move(prices), std::move(found_));
    return {};
  }

 private:
  void find_rows(const PriceList& list) {
    absl::flat_hash_map<std::string_view, std::uint32_t, TextHash, std::equal_to<>> codes;
    for (std::uint32_t code = 0; code < list.products().dictionary.size(); ++code)
      codes.emplace(list.products().dictionary[code], code);
    const daybook::TextValues& products = lines_.lines().texts(daybook::role::kProductId);
    std::vector<std::uint32_t> by_code;
    for (std::size_t code = 0; code < products.dictionary.size(); ++code) {
      const auto known = codes.find(products.dictionary[code]);
      by_code.push_back(known == codes.end() ? daybook::kNoMember : known->second);
    }
    const bool of_lines = lines_.lines().find(daybook::role::kOrderDate) != nullptr;
    const RawTable& dated = of_lines ? lines_.lines() : *lines_.table(TableKind::orders);
    const auto& days = std::get<daybook::DateValues>(dated.find(daybook::role::kOrderDate)->values).days;
    const auto* orders = of_lines ? nullptr : lines_.rows_of(TableKind::orders);
    found_.row_of.assign(lines_.lines().rows(), daybook::kNoMember);
    for (std::size_t line = 0; line < found_.row_of.size(); ++line) {
      const std::uint32_t product = by_code[products.codes[line]];
      const std::int32_t day = days[orders == nullptr ? line : (*orders)[line]];
      if (product != daybook::kNoMember) found_.row_of[line] = list.row_on(product, day);
    }
  }

  /// Fees need no price.
  void count(const PriceList& list, const std::vector<std::uint8_t>& is_fee) {
    found_.count = {TableKind::lines, TableKind::prices, "product_id, and the day of the order", 0, 0, 0};
    std::vector<std::uint8_t>& used = found_.count.used;
    used.resize(table_.rows());
    std::vector<std::uint8_t> product_used(list.products().dictionary.size());
    std::vector<std::uint32_t> without;
    for (std::uint32_t line = 0; line < found_.row_of.size(); ++line) {
      const std::uint32_t row = found_.row_of[line];
      if (row == daybook::kNoMember && !is_fee.empty() && is_fee[line] != 0) continue;
      ++(row == daybook::kNoMember ? found_.count.unmatched : found_.count.matched);
      if (row == daybook::kNoMember)
        without.push_back(line);
      else
        used[row] = product_used[list.products().codes[row]] = 1;
    }
    list_products(lines_.lines(), TableKind::prices, without);
    std::vector<std::uint32_t>
        unused;  // prices of other times are normal; prices that no line uses are reported
    for (std::uint32_t row = 0; row < used.size(); ++row) {
      found_.count.unused += used[row] == 0 ? 1U : 0U;
      if (product_used[list.products().codes[row]] == 0) unused.push_back(row);
    }
    list_products(table_, TableKind::lines, unused);
  }

  /// Products of these rows that have no row in the other table.
  void list_products(const RawTable& table, TableKind missing_in, const std::vector<std::uint32_t>& rows) {
    const daybook::TextValues& products = table.texts(daybook::role::kProductId);
    list_unmatched(
        table, missing_in, rows,
        [&](std::uint32_t row) { return std::string(products.dictionary[products.codes[row]]); },
        found_.unmatched);
  }

  [[nodiscard]] static const std::vector<std::int64_t>* prices_of(const RawTable& table) {
    const RawColumn* column = table.find(daybook::role::kListPrice);
    return column == nullptr ? nullptr : &std::get<daybook::DecimalValues>(column->values).units;
  }

  [[nodiscard]] std::vector<std::int64_t> units() const {
    const auto& dated = *prices_of(table_);
    const auto* own = prices_of(lines_.lines());
    const auto& products = lines_.table(TableKind::products);
    const auto* fixed_prices = products ? prices_of(*products) : nullptr;
    const auto* product_of = fixed_prices == nullptr ? nullptr : lines_.rows_of(TableKind::products);
    std::vector<std::int64_t> units(found_.row_of.size(), daybook::kEmptyUnits);
    for (std::size_t line = 0; line < units.size(); ++line) {
      if (own != nullptr) units[line] = (*own)[line];
      if (units[line] == daybook::kEmptyUnits && found_.row_of[line] != daybook::kNoMember)
        units[line] = dated[found_.row_of[line]];
      if (units[line] == daybook::kEmptyUnits && product_of != nullptr &&
          (*product_of)[line] != daybook::kNoMember)
        units[line] = (*fixed_prices)[(*product_of)[line]];
    }
    return units;
  }

  JoinedLines& lines_;
  const RawTable& table_;
  Join found_;
};

/// By line, whether it is a fee; empty if there is no condition, or if it is wrong, which is reported later.
std::vector<std::uint8_t> fees_of(const IntakePlan& plan, JoinedLines& lines) {
  if (plan.fee_condition.empty()) return {};
  const expression::RowView view = lines.view();
  const auto condition = expression::Expression::compile_condition(plan.fee_condition, view);
  if (!condition) return {};
  auto rows = expression::rows_where(*condition, view);
  return rows ? *std::move(rows) : std::vector<std::uint8_t>();
}

}  // namespace

OrError<void> look_up_prices(const IntakePlan& plan, JoinedLines& lines) {
  const auto& prices = lines.table(TableKind::prices);
  return prices ? LookUp(lines, *prices).run(fees_of(plan, lines)) : OrError<void>();
}

}  // namespace pear::intake
