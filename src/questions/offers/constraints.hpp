// What a plan is made for: its day, its customers, and the products that may be offered.
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

/// The last day that the plan knows. Error: usage, where the data does not reach so far.
[[nodiscard]] OrError<Date> planning_day(const analysis::QuestionInput& input, const Options& options);

/// Errors: usage, for a product that there is not; data, where the stock list is wrong.
[[nodiscard]] OrError<recommender::Constraints> constraints_of(const analysis::QuestionInput& input,
                                                               const Options& options);

/// The ids of a stock list that no sale has, in its order.
[[nodiscard]] std::vector<std::string> never_sold(const analysis::QuestionInput& input);

/// By customer 1 for those who may be planned for.
[[nodiscard]] std::vector<std::uint8_t> planned_of(const analysis::QuestionInput& input);

/// Says so where --where chose customers.
void note_choice(const analysis::QuestionInput& input, result::Result& result);

/// What customers bought up to a day.
[[nodiscard]] mining::Histories histories_until(const analysis::QuestionInput& input,
                                                const expression::GroupKey& products, Date day);

}  // namespace pear::offers
