// The names that exports use for the columns with a role.
#pragma once

#include <cstddef>
#include <optional>
#include <string>

namespace pear::intake {

/// How well a header fits the role at this position of roles(): lower is better; nothing if it does not fit.
[[nodiscard]] std::optional<std::size_t> name_rank(std::size_t role, const std::string& header);

}  // namespace pear::intake
