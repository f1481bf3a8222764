// offers: whom to offer which product, when and why; tested on sales that the plan has not seen.
#pragma once

#include <cstdint>
#include <optional>
#include <string>

#include "analysis/question.hpp"
#include "base/date.hpp"
#include "base/error.hpp"
#include "expression/syntax/tree.hpp"
#include "recommender/plan.hpp"

namespace pear::offers {

struct Options {
  enum class Evidence : std::uint8_t { all, selection };

  std::int64_t horizon = 90;                   ///< days, 1 to 730
  std::optional<Date> as_of;                   ///< the last day of the data where left out
  std::int64_t active = 365;                   ///< days since the last order of those planned for
  std::int64_t per_customer = 3;               ///< offers
  std::optional<double> min_chance;            ///< 0.01 where left out
  std::optional<std::string> only, exclude;    ///< products by id or name, with commas between them
  std::optional<recommender::RankBy> rank_by;  ///< margin where costs are known, otherwise amount
  std::optional<expression::Tree> group;       ///< chosen by the data where left out
  Evidence evidence = Evidence::all;
  std::optional<std::string> stock;     ///< path of a list; its rows come with what is asked
  std::optional<std::int64_t> budget;   ///< customers
  std::optional<std::string> customer;  ///< this one alone, by id or name
  std::optional<std::int64_t> test;     ///< days that are held back
  std::optional<std::int64_t> folds;    ///< cuts; 3 where left out, and fewer where the data is short
};

/// The plan, or one customer's part of it with all evidence, or its test. Errors: usage, where an option does
/// not fit; data, where the sales are too short to learn from, nobody is active, or the stock list is wrong.
[[nodiscard]] OrError<result::Result> ask(analysis::QuestionInput asked, const Options& options);

[[nodiscard]] analysis::Question question();

}  // namespace pear::offers
