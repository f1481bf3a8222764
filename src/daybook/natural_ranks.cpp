#include "daybook/natural_ranks.hpp"

#include <algorithm>
#include <array>

#include <tbb/blocked_range.h>
#include <tbb/parallel_for.h>
#include <tbb/parallel_sort.h>

#include "base/natural_order.hpp"

namespace pear::daybook {
namespace {

/// The beginning of a text as bytes whose plain order is the natural order of the texts, as far as they
/// differ: each run of digits is written as one byte for its length after leading zeros ('0' + count, so that
/// it compares with other characters as a digit does), then those digits. Texts with equal keys must be
/// compared.
struct SortKey {
  std::array<unsigned char, 16> bytes{};
  std::uint32_t position = 0;
};

bool is_digit(char c) { return c >= '0' && c <= '9'; }

SortKey key_of(std::string_view text, std::uint32_t position) {
  constexpr std::size_t kLongestRun = 9;
  SortKey key;
  key.position = position;
  std::size_t used = 0;
  for (std::size_t at = 0; at < text.size() && used < key.bytes.size();) {
    if (!is_digit(text[at])) {
      key.bytes[used++] = static_cast<unsigned char>(text[at++]);
      continue;
    }
    while (at < text.size() && text[at] == '0') ++at;
    std::size_t end = at;
    while (end < text.size() && is_digit(text[end])) ++end;
    if (end - at >= kLongestRun) {  // longer runs share one mark: what follows must be compared
      key.bytes[used++] = '0' + kLongestRun;
      break;
    }
    key.bytes[used++] = static_cast<unsigned char>('0' + (end - at));
    while (at < end && used < key.bytes.size()) key.bytes[used++] = static_cast<unsigned char>(text[at++]);
    at = end;
  }
  return key;
}

}  // namespace

std::vector<std::uint32_t> natural_positions(const TextArray& texts) {
  std::vector<SortKey> keys(texts.size());
  tbb::parallel_for(tbb::blocked_range<std::uint32_t>(0, static_cast<std::uint32_t>(texts.size()), 4096),
                    [&](const auto& range) {
                      for (std::uint32_t i = range.begin(); i != range.end(); ++i)
                        keys[i] = key_of(texts[i], i);
                    });
  tbb::parallel_sort(keys.begin(), keys.end(), [&](const SortKey& a, const SortKey& b) {
    if (a.bytes != b.bytes) return a.bytes < b.bytes;
    return natural_compare(texts[a.position], texts[b.position]) < 0;
  });
  std::vector<std::uint32_t> positions;
  positions.reserve(keys.size());
  for (const SortKey& key : keys) positions.push_back(key.position);
  return positions;
}

std::vector<std::uint32_t> inverse(const std::vector<std::uint32_t>& positions) {
  std::vector<std::uint32_t> ranks(positions.size());
  for (std::uint32_t i = 0; i < positions.size(); ++i) ranks[positions[i]] = i;
  return ranks;
}

}  // namespace pear::daybook
