// Asking questions of sales, as the command line does but without files.
#pragma once

#include <map>
#include <string>

#include "analysis/run_question.hpp"
#include "support/random_shop.hpp"

namespace pear::test {

/// The options read, the columns loaded, the lines selected, the question asked.
[[nodiscard]] OrError<result::Result> try_to_ask(const std::string& question,
                                                 const analysis::OptionValues& options,
                                                 const daybook::Daybook& daybook,
                                                 const std::string& currency = "",
                                                 std::map<std::string, analysis::SideTable> side_tables = {});
[[nodiscard]] result::Result ask(const std::string& question, const analysis::OptionValues& options,
                                 const daybook::Daybook& daybook);
[[nodiscard]] result::Result ask(const std::string& question, const analysis::OptionValues& options,
                                 const Sales& sales);

}  // namespace pear::test
