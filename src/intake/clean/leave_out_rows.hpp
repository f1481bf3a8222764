// Removes rows from a table, and accounts for them.
#pragma once

#include <cstdint>
#include <string>
#include <vector>

#include "intake/clean/intake_log.hpp"
#include "intake/read/raw_table.hpp"

namespace pear::intake {

/// Rejects the rows whose flag is 0, because they cannot be used: writes them to the log, with the value of
/// the column (our name) at fault, and corrects the row counts.
void reject_rows(RawTable& table, const std::vector<std::uint8_t>& stays, const std::string& column,
                 const std::string& reason, IntakeLog& log);

/// The same for rows that the user does not want; they are counted separately.
void exclude_rows(RawTable& table, const std::vector<std::uint8_t>& stays, const std::string& reason,
                  IntakeLog& log);

/// The same, for so many rows that they are counted and not listed.
void tally_out_rows(RawTable& table, const std::vector<std::uint8_t>& stays, const std::string& reason,
                    IntakeLog& log);

}  // namespace pear::intake
