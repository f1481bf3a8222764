// The constraints of a plan: its day, its customers, and the products that may be offered.
#pragma once

#include <cstdint>
#include <string>
#include <vector>

#include "analysis/question_input.hpp"
#include "base/error.hpp"
#include "mining/purchase_histories.hpp"
#include "questions/offers/options.hpp"
#include "recommender/scorer.hpp"
#include "result/result.hpp"

namespace pear::offers {

/// The last day that the plan knows. Error: usage, if the data does not reach that far.
[[nodiscard]] OrError<Date> planning_day(const analysis::QuestionInput& input, const Options& options);

/// Errors: usage, for an unknown product; data, if the stock list is wrong.
[[nodiscard]] OrError<recommender::Constraints> constraints_of(const analysis::QuestionInput& input,
                                                               const Options& options);

/// The ids of a stock list that no sale has, in its order.
[[nodiscard]] std::vector<std::string> never_sold(const analysis::QuestionInput& input);

/// 1 for customers who may be planned for, by customer.
[[nodiscard]] std::vector<std::uint8_t> planned_of(const analysis::QuestionInput& input);

/// Adds a note if --where chose customers.
void note_choice(const analysis::QuestionInput& input, result::Result& result);

/// What customers bought up to a day.
[[nodiscard]] mining::Histories histories_until(const analysis::QuestionInput& input,
                                                const expression::GroupKey& products, Date day);

}  // namespace pear::offers
