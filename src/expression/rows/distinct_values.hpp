// Numbers as codes: positions among their distinct values.
#pragma once

#include <algorithm>
#include <atomic>
#include <cstddef>
#include <cstdint>
#include <limits>
#include <mutex>
#include <optional>
#include <span>
#include <vector>

#include <absl/container/flat_hash_map.h>
#include <absl/container/flat_hash_set.h>
#include <tbb/blocked_range.h>
#include <tbb/parallel_for.h>

namespace pear::expression {

template <class T>
struct CodedValues {
  std::vector<T> distinct;           ///< by size, without the empty value
  std::vector<std::uint32_t> codes;  ///< by row; distinct.size() for the empty value
};

/// The values as codes; nothing if more than `most` are distinct. O(values) on all threads.
template <class T>
[[nodiscard]] std::optional<CodedValues<T>> code_values(
    std::span<const T> values, T empty, std::size_t most = std::numeric_limits<std::size_t>::max()) {
  using Part = tbb::blocked_range<std::size_t>;
  constexpr std::size_t kPart = 65'536;
  absl::flat_hash_set<T> all;
  std::atomic<bool> too_many = false;
  std::mutex adding;
  tbb::parallel_for(Part(0, values.size(), kPart), [&](const Part& part) {
    absl::flat_hash_set<T> own;
    T last = empty;  // equal values are often neighbours
    for (std::size_t i = part.begin(); i != part.end() && !too_many; ++i) {
      if (values[i] == last) continue;
      last = values[i];
      if (last != empty && own.insert(last).second && own.size() > most) too_many = true;
    }
    const std::lock_guard lock(adding);
    all.insert(own.begin(), own.end());
    if (all.size() > most) too_many = true;
  });
  if (too_many) return std::nullopt;
  CodedValues<T> coded{{all.begin(), all.end()}, std::vector<std::uint32_t>(values.size())};
  std::sort(coded.distinct.begin(), coded.distinct.end());
  absl::flat_hash_map<T, std::uint32_t> codes;
  codes.reserve(coded.distinct.size() + 1);
  for (const T value : coded.distinct) codes.emplace(value, static_cast<std::uint32_t>(codes.size()));
  codes.emplace(empty, static_cast<std::uint32_t>(coded.distinct.size()));
  tbb::parallel_for(Part(0, values.size(), kPart), [&](const Part& part) {
    T last = empty;
    auto code = static_cast<std::uint32_t>(coded.distinct.size());
    for (std::size_t i = part.begin(); i != part.end(); ++i) {
      if (values[i] != last) last = values[i], code = codes.find(last)->second;
      coded.codes[i] = code;
    }
  });
  return coded;
}

}  // namespace pear::expression
