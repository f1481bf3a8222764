// What first says: headline, notes, checks and definitions.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "questions/first/counts.hpp"
#include "result/result.hpp"

namespace pear::first {

/// The entries whose customers came back most and least often, of those whose intervals leave the share of
/// all aside. By the ends of the intervals, so that a few customers who happened to come back do not go
/// before many who did.
struct EntryExtremes {
  std::optional<Entry> best, worst;
};
[[nodiscard]] EntryExtremes extremes_of(const Entries& entries, const std::vector<Entry>& compared);

/// In which month, or of which group, most customers began.
[[nodiscard]] std::string months_sentence(const Counts& counts);

[[nodiscard]] std::vector<std::string> headline_of(const Counts& counts);
/// Need the population of the result.
void add_notes(const Counts& counts, const analysis::QuestionInput& input, result::Result& result);
void add_checks(const Counts& counts, result::Result& result);
[[nodiscard]] result::Definitions definitions_of(const Options& options);

}  // namespace pear::first
