// Rows of the lists of customers and products that no line refers to.
#pragma once

#include <vector>

#include "daybook/member_list.hpp"
#include "intake/join/joined_lines.hpp"

namespace pear::intake {

/// They are kept with the daybook, for lines that a later import adds. Only of lists that are joined by their
/// own id.
[[nodiscard]] std::vector<daybook::MemberList> rows_without_lines(const IntakePlan& plan, JoinedLines& lines);

}  // namespace pear::intake
