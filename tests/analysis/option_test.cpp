#include <gtest/gtest.h>

#include "analysis/options/selection.hpp"
#include "questions/all_questions.hpp"

namespace pear::test {
namespace {

std::string fault(const std::string& question, const analysis::OptionValues& values) {
  for (const analysis::Question& each : questions::all_questions()) {
    if (each.name != question) continue;
    const auto prepared = each.prepare(values);
    return prepared ? "" : prepared.error().message;
  }
  return "no such question";
}

TEST(Options, RejectsBadValuesAndNeverClips) {
  EXPECT_EQ(fault("frequency", {{"within", "90"}}), "");
  EXPECT_EQ(fault("frequency", {{"within", "0"}}),
            "--within takes a length of time from 1 to 36,500 days, such as 90, \"90 days\" or \"3 "
            "months\", not \"0\".");
  EXPECT_EQ(fault("frequency", {{"within", "9 0"}}),
            "--within takes a length of time from 1 to 36,500 days, such as 90, \"90 days\" or \"3 "
            "months\", not \"9 0\".");
  EXPECT_EQ(analysis::read_selection({{"returns", "nett"}}).error().message,
            "--returns takes net or ignore, not \"nett\". Did you mean \"net\"?");
}

TEST(Questions, DeclareEverything) {
  for (const analysis::Question& question : questions::all_questions()) {
    EXPECT_FALSE(question.summary.empty());
    EXPECT_FALSE(question.examples.empty());
    for (const analysis::OptionInfo& option : question.options) {
      EXPECT_FALSE(option.help.empty());
      EXPECT_NE(option.name.front(), '-');
    }
  }
}

}  // namespace
}  // namespace pear::test
