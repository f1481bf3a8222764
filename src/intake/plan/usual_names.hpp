// The names that exports use for the columns with a role.
#pragma once

#include <cstddef>
#include <optional>
#include <string>

#include "intake/plan/intake_plan.hpp"

namespace pear::intake {

/// How well a header fits the role at this position of roles(): lower is better; nothing if it does not fit.
[[nodiscard]] std::optional<std::size_t> name_rank(std::size_t role, const std::string& header);

/// How well a header fits the column with the names of products or customers, which tables show next to their
/// ids: lower is better; nothing if it does not fit.
[[nodiscard]] std::optional<std::size_t> label_rank(TableKind of, const std::string& header);

}  // namespace pear::intake
