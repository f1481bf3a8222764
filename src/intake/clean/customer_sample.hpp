// A sample of whole customers, by a hash of their ids.
#pragma once

#include <cstdint>
#include <string_view>

#include "base/error.hpp"
#include "intake/clean/intake_log.hpp"
#include "intake/join/joined_lines.hpp"

namespace pear::intake {

/// Reads "1/50" as 50. Error: usage.
[[nodiscard]] OrError<std::uint32_t> parse_sample(std::string_view text);

/// Whether a customer is in a sample of 1 in `one_in`: the first 32 bits of the MD5 of the id in UTF-8 (RFC
/// 1321) are divisible by it. So every import of any source takes the same customers, a database computes the
/// same, and a sample of 1 in 50 is part of that of 1 in 10.
[[nodiscard]] bool is_in_sample(std::string_view customer_id, std::uint32_t one_in);
/// Leaves out the lines of all other customers; they are counted, but not listed.
void keep_sampled(std::uint32_t one_in, JoinedLines& lines, IntakeLog& log);

}  // namespace pear::intake
