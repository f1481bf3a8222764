// Whether an import leaves out too much.
#pragma once

#include <string>

#include "base/error.hpp"
#include "intake/import.hpp"

namespace pear::intake {

/// Error: data, with the most frequent reason and what to do, if more than a tenth of the rows of a source
/// were rejected, other than by [[require]]: that is more than a few mistakes, mostly a format or a key is
/// wrong.
[[nodiscard]] OrError<void> check_few_rejected(const Imported& imported);

/// What was left out of the lines and its value, as a sentence; empty if it is at most 0.5% of the rows and
/// of the amount. Duplicates are not left out: their lines are in the daybook once.
[[nodiscard]] std::string left_out(const Imported& imported);

/// Orders after tomorrow, as a sentence with the format that would fit if day and month were read the wrong
/// way round. Empty if there are none. `today` is the day of the import.
[[nodiscard]] std::string orders_in_the_future(const Imported& imported, const IntakePlan& plan, Date today);

}  // namespace pear::intake
