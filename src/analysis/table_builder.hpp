// Columns of a table out of rows of facts.
#pragma once

#include <cmath>
#include <cstdint>
#include <string>
#include <utility>
#include <vector>

#include "base/decimal.hpp"
#include "result/table.hpp"

namespace pear::analysis {

/// A figure as units of Decimal; an empty cell where it is none.
[[nodiscard]] inline std::int64_t in_units(double value) {
  return std::isfinite(value) ? std::llround(value * Decimal::kScale) : result::kEmptyCell;
}

/// Columns out of rows, one after another.
template <class Row>
class RowColumns {
 public:
  RowColumns(const std::vector<Row>& rows, std::vector<result::TableColumn>& columns)
      : rows_(rows), columns_(columns) {}

  template <class Of>
  result::TableColumn& whole(std::string name, result::Unit unit, std::string description, Of of) {
    std::vector<std::int64_t> values;
    for (const Row& row : rows_) values.push_back(static_cast<std::int64_t>(of(row)));
    columns_.push_back(
        result::integer_column(std::move(name), unit, std::move(description), std::move(values)));
    return columns_.back();
  }
  template <class Of>
  result::TableColumn& share(std::string name, std::string description, Of of) {
    columns_.push_back(result::share_column(std::move(name), std::move(description), values(of)));
    return columns_.back();
  }
  template <class Of>
  result::TableColumn& chance(std::string name, std::string description, Of of) {
    columns_.push_back(result::chance_column(std::move(name), std::move(description), values(of)));
    return columns_.back();
  }
  template <class Of>
  result::TableColumn& ratio(std::string name, std::string description, Of of) {
    result::TableColumn& column = whole(std::move(name), result::Unit::number, std::move(description),
                                        [&](const Row& row) { return in_units(of(row)); });
    column.places = 1;
    return column;
  }

 private:
  template <class Of>
  [[nodiscard]] std::vector<double> values(Of of) const {
    std::vector<double> all;
    for (const Row& row : rows_) all.push_back(of(row));
    return all;
  }

  const std::vector<Row>& rows_;
  std::vector<result::TableColumn>& columns_;
};

}  // namespace pear::analysis
