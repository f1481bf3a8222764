// customer: one customer's history.
#pragma once

#include "analysis/find_member.hpp"

namespace pear::lookup {

/// The history line by line, what is known of the customer, and a timeline; or, where several share a name, a
/// row for each of them. For verifying by eye what other questions say. Errors: usage, where there is no such
/// customer.
[[nodiscard]] OrError<result::Result> ask_customer(const analysis::QuestionInput& input,
                                                   const analysis::MemberOptions& options);

[[nodiscard]] analysis::Question customer_question();

}  // namespace pear::lookup
