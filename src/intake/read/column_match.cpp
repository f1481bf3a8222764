#include "intake/read/column_match.hpp"

#include <algorithm>

#include <fmt/format.h>

#include "base/text.hpp"

namespace pear::intake {

OrError<std::vector<std::size_t>> ColumnMatch::places(const TableColumns& plan, const std::string& source) {
  if (first_source_.empty()) first_source_ = source;
  std::vector<std::size_t> places;
  for (const PlannedColumn& column : columns_) {
    places.push_back(plan.find(column.name));
    if (places.back() == plan.columns.size())
      return data_error(
          fmt::format("{} has no column {}, but {} has one. Files with different columns each need their own "
                      "[[{}.from]].",
                      source, in_quotes(column.name), first_source_, to_text(kind_)));
  }
  for (const PlannedColumn& planned : plan.columns) {
    const bool known = std::any_of(columns_.begin(), columns_.end(),
                                   [&](const PlannedColumn& column) { return column.name == planned.name; });
    if (!known)
      return data_error(
          fmt::format("{} has a column {}, but {} does not. Files with different columns each need their own "
                      "[[{}.from]].",
                      source, in_quotes(planned.name), first_source_, to_text(kind_)));
  }
  return places;
}

}  // namespace pear::intake
