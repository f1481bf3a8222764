// Asking questions of sales, as the command line does but without files.
#pragma once

#include <string>

#include "question/asking.hpp"
#include "support/random_shop.hpp"

namespace pear::test {

/// The options read, the columns loaded, the lines selected, the question asked.
[[nodiscard]] OrError<Result> try_to_ask(const std::string& question, const OptionValues& options,
                                         const Daybook& daybook, const std::string& currency = "");
[[nodiscard]] Result ask(const std::string& question, const OptionValues& options, const Daybook& daybook);
[[nodiscard]] Result ask(const std::string& question, const OptionValues& options, const Sales& sales);

}  // namespace pear::test
