// What distinct says: tables, headline, figure.
#pragma once

#include <string>
#include <vector>

#include "questions/distinct/counts.hpp"
#include "result/result.hpp"

namespace pear::distinct {

/// All that distinct found.
struct Finding {
  const Options& options;
  const daybook::Daybook& daybook;
  Keys keys;
  std::vector<CellFacts> facts;     ///< by cell
  std::vector<std::uint32_t> rows;  ///< cells with a purchase, in the order in which they are shown

  /// "product", "products", "customer_id"; of what is counted, and of what it is counted for.
  [[nodiscard]] std::string counted_name() const;
  [[nodiscard]] std::string counted_noun(std::uint64_t count) const;
  [[nodiscard]] std::string per_noun() const;
  [[nodiscard]] std::string per_plural() const;
  /// "C101", "North / 2024"
  [[nodiscard]] std::string label(std::uint32_t cell) const;
};

/// Most first; times in their order.
[[nodiscard]] std::vector<std::uint32_t> ordered_rows(const Keys& keys, const std::vector<CellFacts>& facts);

[[nodiscard]] result::Table main_table(const Finding& finding);
/// How many rows of the main table have which number.
[[nodiscard]] result::Table distribution_table(const Finding& finding);
/// Error: data, where an amount leaves the range of Decimal.
[[nodiscard]] OrError<result::Table> members_table(const Finding& finding,
                                                   const std::vector<Member>& members);

[[nodiscard]] std::vector<std::string> headline_of(const Finding& finding);
/// The top values, or the distribution where there are many; none of a single number.
[[nodiscard]] std::vector<result::Figure> figures_of(const Finding& finding);

}  // namespace pear::distinct
