// A question, answered inside a database.
#pragma once

#include <string>
#include <vector>

#include "analysis/options/shared_options.hpp"
#include "analysis/question.hpp"
#include "base/date.hpp"
#include "base/error.hpp"
#include "pushdown/session.hpp"
#include "pushdown/warehouse.hpp"
#include "result/result.hpp"

namespace pear::pushdown {

/// What a question is asked of.
struct DatabaseQuestion {
  const analysis::Question& question;
  const analysis::OptionValues& values;
  const analysis::PreparedQuestion& prepared;
  const analysis::SharedOptions& shared;
};

/// The same result as that of a daybook imported from the warehouse. Its statements read one state of the
/// database, and what comes from it grows with the result, not with the lines. Errors: usage, for a question
/// or option that databases do not answer, by name; data, for lines that would be counted twice; io, with the
/// database's message.
[[nodiscard]] OrError<result::Result> ask_database(const DatabaseQuestion& asked, const Warehouse& warehouse,
                                                   Session& session);

/// Takes the place of the last day of the data in statements that are not run: 9999-12-31.
constexpr Date kSomeDay{2'932'896};

/// The statements of a question, for a session that explains: none is run.
[[nodiscard]] OrError<std::vector<std::string>> explain(const DatabaseQuestion& asked,
                                                        const Warehouse& warehouse, Session& session);

}  // namespace pear::pushdown
