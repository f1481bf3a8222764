// What exports call the columns that play a part.
#pragma once

#include <cstddef>
#include <optional>
#include <string>

namespace pear::intake {

/// How well a header names the role at this position of roles(): lower is better; nothing where it does not.
[[nodiscard]] std::optional<std::size_t> name_rank(std::size_t role, const std::string& header);

}  // namespace pear::intake
