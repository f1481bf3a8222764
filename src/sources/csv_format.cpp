#include "sources/csv_format.hpp"

#include <algorithm>
#include <vector>

#include "sources/csv_chunk.hpp"

namespace pear::sources {
namespace {

/// What a delimiter makes of the sample: the share of the rows that have this many fields.
struct Agreement {
  double share = 0;
  std::size_t fields = 0;

  [[nodiscard]] bool is_better_than(const Agreement& other) const {
    return fields > 1 && (share > other.share || (share == other.share && fields > other.fields));
  }
};

Agreement agreement_on(std::size_t fields, const std::vector<std::size_t>& rows) {
  const auto same = std::count(rows.begin(), rows.end(), fields);
  return {static_cast<double>(same) / static_cast<double>(rows.size()), fields};
}

}  // namespace

CsvFormat detect_format(std::string_view sample) {
  constexpr double kMost = 0.5;
  CsvFormat by_first, by_any;
  Agreement with_first, with_any;
  for (const char delimiter : {',', ';', '\t', '|'}) {
    const auto rows = count_fields(sample, {delimiter}, 100);
    if (rows.empty()) continue;
    if (const Agreement found = agreement_on(rows.front(), rows); found.is_better_than(with_first))
      by_first = {delimiter}, with_first = found;
    for (const std::size_t fields : rows)
      if (const Agreement found = agreement_on(fields, rows); found.is_better_than(with_any))
        by_any = {delimiter}, with_any = found;
  }
  // The first row is the header, and without decimal commas. If most rows differ from it, it is a title.
  return with_first.share > kMost ? by_first : by_any;
}

std::string_view without_byte_order_mark(std::string_view text) {
  return text.starts_with("\xEF\xBB\xBF") ? text.substr(3) : text;
}

}  // namespace pear::sources
