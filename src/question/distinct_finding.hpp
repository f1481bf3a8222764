// What distinct says: tables, headline, figure.
#pragma once

#include <string>
#include <vector>

#include "question/distinct_counts.hpp"
#include "result/result.hpp"

namespace pear {

/// All that distinct found.
struct DistinctFinding {
  const DistinctOptions& options;
  const Daybook& daybook;
  DistinctKeys keys;
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
[[nodiscard]] std::vector<std::uint32_t> ordered_rows(const DistinctKeys& keys,
                                                      const std::vector<CellFacts>& facts);

[[nodiscard]] Table distinct_table(const DistinctFinding& finding);
/// How many rows of the main table have which number.
[[nodiscard]] Table distinct_distribution(const DistinctFinding& finding);
/// Error: data, where an amount leaves the range of Decimal.
[[nodiscard]] OrError<Table> members_table(const DistinctFinding& finding,
                                           const std::vector<Member>& members);

[[nodiscard]] std::vector<std::string> distinct_headline(const DistinctFinding& finding);
/// The top values, or the distribution where there are many; none of a single number.
[[nodiscard]] std::vector<Figure> distinct_figure(const DistinctFinding& finding);

}  // namespace pear
