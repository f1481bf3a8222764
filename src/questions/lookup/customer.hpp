// customer: one customer's history.
#pragma once

#include "analysis/find_member.hpp"

namespace pear::lookup {

/// The history line by line, the customer's attributes, and a timeline; or, if several share a name, a row
/// for each of them. For checking what other questions report. Errors: usage, if there is no such customer.
[[nodiscard]] OrError<result::Result> ask_customer(const analysis::QuestionInput& input,
                                                   const analysis::MemberOptions& options);

[[nodiscard]] analysis::Question customer_question();

}  // namespace pear::lookup
