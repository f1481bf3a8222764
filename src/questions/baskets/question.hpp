// baskets: what baskets are made of, what they bring, and which products pull profitable ones.
#pragma once

#include "analysis/question.hpp"
#include "base/error.hpp"
#include "questions/baskets/options.hpp"
#include "result/result.hpp"

namespace pear::baskets {

/// Make-ups of baskets with what they bring, sizes, and for each item what it earns, what the rest of its
/// baskets earns, and its pull (see basket_facts.hpp). Margins where the daybook has costs, sales otherwise.
/// Errors: usage, where --level does not fit; data, where nothing was bought.
[[nodiscard]] OrError<result::Result> ask(const analysis::QuestionInput& input, const Options& options);

[[nodiscard]] analysis::Question question();

}  // namespace pear::baskets
