#include <gtest/gtest.h>

#include "question/question.hpp"
#include "question/selection.hpp"

namespace pear::test {
namespace {

std::string fault(const std::string& question, const OptionValues& values) {
  for (const Question& each : questions()) {
    if (each.name != question) continue;
    const auto prepared = each.prepare(values);
    return prepared ? "" : prepared.error().message;
  }
  return "no such question";
}

TEST(Options, BadValuesAreRefusedAndNeverClipped) {
  EXPECT_EQ(fault("frequency", {{"within", "90"}}), "");
  EXPECT_EQ(fault("frequency", {{"within", "0"}}),
            "--within takes a whole number from 1 to 36,500, not \"0\".");
  EXPECT_EQ(fault("frequency", {{"within", "9 0"}}),
            "--within takes a whole number from 1 to 36,500, not \"9 0\".");
  EXPECT_EQ(read_selection({{"returns", "nett"}}).error().message,
            "--returns takes net or ignore, not \"nett\". Did you mean \"net\"?");
}

TEST(Questions, DeclareThemselvesWhole) {
  for (const Question& question : questions()) {
    EXPECT_FALSE(question.summary.empty());
    EXPECT_FALSE(question.examples.empty());
    for (const OptionInfo& option : question.options) {
      EXPECT_FALSE(option.help.empty());
      EXPECT_NE(option.name.front(), '-');
    }
  }
}

}  // namespace
}  // namespace pear::test
