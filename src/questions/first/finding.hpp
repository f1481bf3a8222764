// The finding of first: headline, notes, checks and definitions.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "questions/first/counts.hpp"
#include "result/result.hpp"

namespace pear::first {

/// The entries with the highest and lowest repeat rates, among those that differ significantly. Sorted by the
/// ends of the intervals, so that a few customers who happened to order again do not rank before many who
/// did.
struct EntryExtremes {
  std::optional<Entry> best, worst;
};
[[nodiscard]] EntryExtremes extremes_of(const Entries& entries, const std::vector<Entry>& compared);

/// The month, or the group, with the most new customers.
[[nodiscard]] std::string months_sentence(const Counts& counts);

[[nodiscard]] std::vector<std::string> headline_of(const Counts& counts);
/// Need the population of the result.
void add_notes(const Counts& counts, result::Result& result);
void add_checks(const Counts& counts, result::Result& result);
[[nodiscard]] result::Definitions definitions_of(const Options& options);

}  // namespace pear::first
