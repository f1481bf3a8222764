// The options of offers.
#pragma once

#include <cstdint>
#include <optional>
#include <string>

#include "analysis/options/day_span.hpp"
#include "analysis/options/option.hpp"
#include "base/error.hpp"
#include "expression/syntax/tree.hpp"
#include "recommender/scorer.hpp"

namespace pear::offers {

/// What the rows of the campaign list are.
enum class CampaignList : std::uint8_t { customers, products };

struct Options {
  std::optional<std::int64_t> horizon;                ///< days, 1 to 730; 90 by default
  std::optional<analysis::GivenDays> as_of;           ///< the last day of the data by default
  std::int64_t active = 365;                          ///< days since the last order of those planned for
  std::int64_t per_customer = 3;                      ///< offers
  std::optional<double> min_probability;              ///< 0.01 by default
  std::optional<std::string> only, exclude;           ///< products by id or name, separated by commas
  bool uplift = false;                                ///< count only purchases that an offer can cause
  std::optional<recommender::RankBy> rank_by;         ///< margin if costs are known, otherwise amount
  std::optional<recommender::BaselineMethod> method;  ///< how offers are chosen; none: the plan
  std::optional<CampaignList> list;
  std::optional<expression::Tree> per;  ///< segments; chosen from the data by default
  std::optional<expression::Tree>
      customers;                        ///< a condition on lines: plan for customers who have such a line
  std::optional<std::string> stock;     ///< path of a list; its rows come with the input
  std::optional<std::int64_t> budget;   ///< customers
  std::optional<double> control;        ///< share of the planned customers who are not contacted
  std::optional<std::string> customer;  ///< this one only, by id or name
  std::optional<std::int64_t> test;     ///< days that are held out
  std::optional<std::int64_t> folds;    ///< cuts; 3 by default, and fewer if the data is short
  std::optional<std::string>
      learn;  ///< path of a daybook to learn from, too; its customers come with the input
  std::optional<std::string> measure;  ///< path of a plan with a control group; its rows come with the input

  [[nodiscard]] std::int64_t days_ahead() const { return horizon.value_or(90); }
};

[[nodiscard]] analysis::OptionDeclarations<Options> option_declarations();

/// Error: usage, also for options that contradict each other.
[[nodiscard]] OrError<Options> read(const analysis::OptionValues& values);

}  // namespace pear::offers
