// The codes of customers or products, by the ids that a database gives.
#pragma once

#include <cstdint>
#include <string>

#include <absl/container/flat_hash_map.h>
#include <fmt/format.h>

#include "base/error.hpp"
#include "base/text_array.hpp"
#include "pushdown/answer_values.hpp"

namespace pear::pushdown {

class MemberCodes {
 public:
  explicit MemberCodes(const TextArray& ids) {
    for (std::uint32_t code = 0; code < ids.size(); ++code) codes_.emplace(std::string(ids[code]), code);
  }
  /// Error: data, for an id that came after the others were read.
  [[nodiscard]] OrError<std::uint32_t> operator[](const SqlValue& id) const {
    const auto found = codes_.find(id.value_or(""));
    if (found == codes_.end())
      return data_error(
          fmt::format("the database answered {}, which no selected line has.", id.value_or("")));
    return found->second;
  }

 private:
  absl::flat_hash_map<std::string, std::uint32_t> codes_;
};

}  // namespace pear::pushdown
