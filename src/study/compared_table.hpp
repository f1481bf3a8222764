// A table compared with an earlier version of itself: what has changed, and how it is described.
#pragma once

#include <algorithm>
#include <cmath>
#include <cstdint>
#include <limits>
#include <string>
#include <string_view>
#include <vector>

#include "result/table.hpp"

namespace pear::study {

enum class Change : std::uint8_t { fresh, gone, risen, fallen };
inline constexpr std::string_view kChanges[] = {"new", "gone", "risen", "fallen"};

/// A row that has changed.
struct ChangedRow {
  std::vector<std::string> key;
  Change change = Change::fresh;
  double before = std::numeric_limits<double>::quiet_NaN();
  double now = std::numeric_limits<double>::quiet_NaN();
  [[nodiscard]] double difference() const {
    return (std::isnan(now) ? 0 : now) - (std::isnan(before) ? 0 : before);
  }
};

/// A table compared with its earlier version.
struct ComparedTable {
  std::string question, stem;
  const result::Table* table = nullptr;
  std::vector<std::size_t> keys;
  std::size_t measure = 0;
  std::size_t rows_before = 0, same = 0;
  std::vector<ChangedRow> rows;
  [[nodiscard]] std::uint64_t count(Change change) const {
    return static_cast<std::uint64_t>(
        std::count_if(rows.begin(), rows.end(), [&](const ChangedRow& row) { return row.change == change; }));
  }
};

/// A row for each row that changed: key, change, before, now, difference.
[[nodiscard]] result::Table changes_table(const ComparedTable& compared);

/// A row for each table.
[[nodiscard]] result::Table summary_table(const std::vector<ComparedTable>& all);

/// How much changed, and the largest differences; `changes` are the tables of changes, in the same order.
[[nodiscard]] std::vector<std::string> changes_headline(const std::vector<ComparedTable>& all,
                                                        const std::vector<result::Table>& changes,
                                                        const std::string& folder);

}  // namespace pear::study
