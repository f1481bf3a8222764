#include "intake/inspect/sample_columns.hpp"

#include <algorithm>
#include <string_view>
#include <utility>

#include <absl/container/flat_hash_map.h>

#include "expression/evaluate/functions.hpp"

namespace pear::intake {
namespace {

constexpr std::uint32_t kNone = daybook::kEmptyCode;

}  // namespace

SampleColumns::SampleColumns(const SourceProfile& source) : rows_(source.first_rows.size()) {
  for (std::size_t column = 0; column < source.columns.size(); ++column) {
    std::vector<std::uint32_t> codes(rows_, kNone);
    absl::flat_hash_map<std::string_view, std::uint32_t> known;
    for (std::size_t row = 0; row < rows_; ++row) {
      const std::string_view value = expression::trimmed(source.first_rows[row][column]);
      if (!value.empty())
        codes[row] = known.try_emplace(value, static_cast<std::uint32_t>(known.size())).first->second;
    }
    distinct_.push_back(known.size());
    codes_.push_back(std::move(codes));
  }
}

std::size_t SampleColumns::filled(std::size_t column) const {
  return rows_ - static_cast<std::size_t>(std::count(codes_[column].begin(), codes_[column].end(), kNone));
}

double SampleColumns::determines(std::size_t key, std::size_t other) const {
  struct Seen {
    std::uint32_t value = 0;
    bool repeats = false, differs = false;
  };
  absl::flat_hash_map<std::uint32_t, Seen> seen;
  for (std::size_t row = 0; row < rows_; ++row) {
    if (codes_[key][row] == kNone) continue;
    const auto [found, is_new] = seen.try_emplace(codes_[key][row], Seen{codes_[other][row], false, false});
    if (is_new) continue;
    found->second.repeats = true;
    found->second.differs |= found->second.value != codes_[other][row];
  }
  std::size_t several = 0, one = 0;
  for (const auto& [code, each] : seen) {
    if (each.repeats) ++several;
    if (each.repeats && !each.differs) ++one;
  }
  return several == 0 ? 1 : static_cast<double>(one) / static_cast<double>(several);
}

}  // namespace pear::intake
