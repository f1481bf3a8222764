#include "analysis/frequent_values.hpp"

#include <algorithm>
#include <numeric>
#include <utility>
#include <vector>

#include <fmt/format.h>

#include "base/text.hpp"

namespace pear::analysis {

std::uint32_t keep_most_frequent(expression::GroupKey& key, std::uint32_t most) {
  if (key.distinct <= most) return 0;
  std::vector<std::uint64_t> members(key.distinct + 1);
  for (const std::uint32_t code : key.codes) ++members[code];
  std::vector<std::uint32_t> kept(key.distinct);
  std::iota(kept.begin(), kept.end(), 0U);
  std::stable_sort(kept.begin(), kept.end(),
                   [&](std::uint32_t a, std::uint32_t b) { return members[a] > members[b]; });
  kept.resize(most);
  std::sort(kept.begin(), kept.end());
  const std::uint32_t combined = key.distinct - most;
  std::vector<std::uint32_t> new_codes(key.distinct + 1, most);
  new_codes[key.distinct] = most + 1;  // the empty value stays the last
  daybook::TextValues labels;
  for (std::uint32_t code = 0; code < most; ++code) {
    new_codes[kept[code]] = code;
    labels.dictionary.push_back(expression::label_text(key, kept[code]));
  }
  labels.dictionary.push_back(fmt::format("other ({})", with_thousands(std::int64_t{combined})));
  for (std::uint32_t& code : key.codes) code = new_codes[code];
  key.labels = std::move(labels);
  key.distinct = most + 1;
  key.type = expression::ValueType::text;
  key.source.clear();  // neither ids nor times any more
  return combined;
}

}  // namespace pear::analysis
