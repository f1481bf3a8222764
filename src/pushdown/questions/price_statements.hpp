// The statements of prices: over the pairs of a customer and a product, and the totals of products.
#pragma once

#include <cstdint>
#include <string>
#include <vector>

#include "base/error.hpp"
#include "pushdown/grouped_lines.hpp"
#include "pushdown/member_codes.hpp"
#include "questions/prices/counts.hpp"

namespace pear::pushdown {

/// Borrows the lines and the options. Errors of all: io and data.
class PriceStatements {
 public:
  PriceStatements(const SelectedLines& lines, const prices::Options& options);

  [[nodiscard]] bool has_list() const { return has_list_; }

  /// The totals of each product, its quartiles of customers' average prices, and who pays less.
  [[nodiscard]] OrError<std::vector<prices::ProductPrices>> products(const MemberCodes& codes,
                                                                     std::uint32_t count) const;

  /// What customers paid in total, and what the same pieces cost on average.
  [[nodiscard]] OrError<std::vector<prices::CustomerPrices>> customers(const MemberCodes& codes,
                                                                       const MemberCodes& products) const;

  /// The pairs within the bounds; none without bounds and product.
  [[nodiscard]] OrError<prices::CustomerProductPrices> pairs(const MemberCodes& customers,
                                                             const MemberCodes& products,
                                                             std::uint32_t count) const;

  /// The months of the requested product.
  [[nodiscard]] OrError<std::vector<prices::MonthPrices>> months() const;

 private:
  [[nodiscard]] OrError<SqlRows> rows(const std::string& select,
                                      const std::vector<std::string>& columns) const;

  static std::string listed_columns(const char* function);
  void add_listed(std::vector<std::string>& columns) const;
  [[nodiscard]] OrError<prices::Listed> listed_in(const std::vector<SqlValue>& row, std::size_t first) const;

  [[nodiscard]] std::vector<std::string> pair_columns() const;

  /// The sign of a pair's price minus a share of what it is compared with; NULL if that is nothing.
  [[nodiscard]] std::string sign(std::int64_t share) const;
  [[nodiscard]] std::string bounds() const;
  [[nodiscard]] static std::string compared_pairs(const std::string& condition);

  // What a quantity of the pair's product costs at the average of all, and of the others.
  [[nodiscard]] std::string at_average(const std::string& quantity) const {
    return dialect_.proportion(quantity, "pear_products.amount", "pear_products.quantity");
  }
  [[nodiscard]] std::string at_others(const std::string& quantity) const;
  /// What the pieces would have cost at the price compared with, minus what was paid.
  [[nodiscard]] std::string gap() const;

  /// Of each customer, the products with the highest price.
  [[nodiscard]] static std::string dearest_pairs(const std::string& price);

  /// See statistics::quantile_rank.
  [[nodiscard]] OrError<void> add_quartiles(const MemberCodes& codes,
                                            std::vector<prices::ProductPrices>& products) const;

  [[nodiscard]] OrError<std::uint64_t> lines_without_quantity() const;

  const SelectedLines& lines_;
  const Dialect& dialect_;
  const prices::Options& options_;
  bool has_list_;
  std::string purchases_, with_;
};

}  // namespace pear::pushdown
