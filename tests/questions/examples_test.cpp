// The examples in the help of questions.
#include <algorithm>
#include <string>
#include <vector>

#include <gtest/gtest.h>

#include "analysis/options/shared_options.hpp"
#include "questions/all_questions.hpp"

namespace pear::test {
namespace {

/// The words of a command line, in which quotes join words.
std::vector<std::string> shell_words(const std::string& line) {
  std::vector<std::string> words(1);
  bool quoted = false;
  for (const char c : line) {
    if (c == '"')
      quoted = !quoted;
    else if (c == ' ' && !quoted)
      words.emplace_back();
    else
      words.back() += c;
  }
  return words;
}

/// Every option of every example exists, and its value is accepted.
TEST(Examples, AreUnderstood) {
  for (const analysis::Question& question : questions::all_questions()) {
    std::vector<analysis::OptionInfo> options = question.options;
    for (const analysis::OptionInfo& shared : analysis::shared_options(question)) options.push_back(shared);
    for (const std::string& example : question.examples) {
      SCOPED_TRACE(example);
      const std::vector<std::string> words = shell_words(example);
      analysis::OptionValues values;
      for (std::size_t i = 2; i < words.size(); ++i) {
        if (!words[i].starts_with("--")) {
          if (i == 2 && !question.word.empty()) values.emplace_back(question.word, words[i]);
          continue;
        }
        const std::string name = words[i].substr(2);
        const auto option = std::find_if(options.begin(), options.end(),
                                         [&](const analysis::OptionInfo& each) { return each.name == name; });
        ASSERT_NE(option, options.end()) << name;
        values.emplace_back(name, option->placeholder.empty() ? "true" : words.at(++i));
      }
      const auto prepared = question.prepare(values);
      EXPECT_TRUE(prepared) << (prepared ? "" : prepared.error().message);
      const auto shared = analysis::read_shared_options(question, values);
      EXPECT_TRUE(shared) << (shared ? "" : shared.error().message);
    }
  }
}

}  // namespace
}  // namespace pear::test
