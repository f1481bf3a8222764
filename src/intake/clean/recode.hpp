// Changes the texts of a column after the whole table was read.
#pragma once

#include <functional>
#include <string>
#include <string_view>
#include <vector>

#include "intake/clean/intake_log.hpp"
#include "intake/read/raw_table.hpp"

namespace pear::intake {

/// How many rows have each text of the column, by code.
[[nodiscard]] std::vector<std::uint64_t> rows_by_code(const daybook::TextValues& values);

/// Replaces every text by the one in `renamed`, which may be the same; texts that become equal get one code.
/// Each row that changes is recorded in the log under the name of the step.
void rename_texts(RawTable& table, RawColumn& column,
                  const std::function<std::string(std::string_view)>& renamed, std::string_view step,
                  IntakeLog& log);

/// The same without a log, for a text that only writes the value in another way.
void rewrite_texts(daybook::TextValues& values,
                   const std::function<std::string(std::string_view)>& rewritten);

/// Codes and dictionary without the texts that no row has, in order of first appearance.
void drop_unused_texts(daybook::TextValues& values);

}  // namespace pear::intake
