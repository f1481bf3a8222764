#include "sources/csv_format.hpp"

#include <algorithm>

#include "sources/csv_chunk.hpp"

namespace pear::sources {
namespace {

/// How many of the sample's rows have as many fields as the first, and how many fields those are.
struct Agreement {
  double share = 0;
  std::size_t fields = 0;
};

Agreement agreement(std::string_view sample, char delimiter) {
  const auto rows = count_fields(sample, {delimiter}, 100);
  if (rows.empty()) return {};
  const auto same = std::count(rows.begin(), rows.end(), rows.front());
  return {static_cast<double>(same) / static_cast<double>(rows.size()), rows.front()};
}

}  // namespace

CsvFormat detect_format(std::string_view sample) {
  CsvFormat best;
  Agreement best_agreement;
  for (const char delimiter : {',', ';', '\t', '|'}) {
    const Agreement found = agreement(sample, delimiter);
    if (found.fields < 2) continue;
    const bool better = found.share > best_agreement.share ||
                        (found.share == best_agreement.share && found.fields > best_agreement.fields);
    if (!better) continue;
    best = {delimiter};
    best_agreement = found;
  }
  return best;
}

std::string_view without_byte_order_mark(std::string_view text) {
  return text.starts_with("\xEF\xBB\xBF") ? text.substr(3) : text;
}

}  // namespace pear::sources
