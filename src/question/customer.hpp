// customer: one customer's history.
#pragma once

#include "question/member_lookup.hpp"

namespace pear {

/// The history line by line, what is known of the customer, and a timeline; or, where several share a name, a
/// row for each of them. For verifying by eye what other questions say. Errors: usage, where there is no such
/// customer.
[[nodiscard]] OrError<Result> ask_customer(const Asked& asked, const MemberOptions& options);

/// The customer's history line by line, oldest first.
[[nodiscard]] Table customer_history_table(const Daybook& daybook, std::uint32_t customer);

[[nodiscard]] Question customer_question();

}  // namespace pear
