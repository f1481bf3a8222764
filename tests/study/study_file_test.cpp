// Study files: their contents, how their mistakes are reported, and that a saved question is the one that was
// asked.
#include "study/study_file.hpp"

#include <gtest/gtest.h>
#include <rapidcheck/gtest.h>

#include "app/run_and_write.hpp"
#include "questions/all_questions.hpp"
#include "support/hostile.hpp"
#include "support/temporary_folder.hpp"

namespace pear::test {
namespace {

const std::string kHead = "[study]\ndaybook = \"shop.daybook\"\n";

std::string fault(const std::string& text) {
  const auto study = study::parse_study(text, "s.toml");
  return study ? "" : study.error().message;
}

const analysis::Question& question_named(const std::string& name) {
  return *std::find_if(questions::all_questions().begin(), questions::all_questions().end(),
                       [&](const analysis::Question& each) { return each.name == name; });
}

TEST(StudyFile, ReadsAllKeys) {
  const auto study = study::parse_study(
      "[study]\ntitle = \"Monthly\"\nintake = \"raw/shop.toml\"\nwhere = \"region = 'North'\"\nfrom = "
      "2024-01-01\n"
      "template = [\"letter.md\"]\n"
      "[[question]]\nask = \"frequency\"\nwithin = 90\nlist = true\nwhere = \"year = 2024\"\n"
      "[[question]]\nask = \"frequency\"\ntitle = \"Again\"\nfrom = \"2024-02-01\"\nformat = [\"csv\", "
      "\"xlsx\"]\nfigure = \"none\"\n"
      "[[question]]\nask = \"customer\"\nfind = \"C1\"\n",
      "studies/m.toml");
  ASSERT_TRUE(study.has_value()) << study.error().message;
  EXPECT_EQ(study->title, "Monthly");
  EXPECT_EQ(study->intake, "studies/raw/shop.toml");
  EXPECT_EQ(study->daybook, "studies/raw/shop.daybook");
  EXPECT_EQ(study->folder, "studies/m-out");
  EXPECT_EQ(study->templates, (std::vector<std::string>{"studies/letter.md"}));
  ASSERT_EQ(study->questions.size(), 3U);
  EXPECT_EQ(study->questions[0].values,
            (analysis::OptionValues{{"within", "90"},
                                    {"list", "true"},
                                    {"where", "(region = 'North') AND (year = 2024)"},
                                    {"from", "2024-01-01"}}));
  EXPECT_EQ(study->questions[1].files.stem, "frequency-2");
  EXPECT_EQ(study->questions[1].files.tables,
            (std::vector<output::TableFormat>{output::TableFormat::csv, output::TableFormat::xlsx}));
  EXPECT_TRUE(study->questions[1].files.figures.empty());
  EXPECT_EQ(app::value_or(study->questions[1].values, "from", ""), "2024-02-01");
  EXPECT_EQ(study->questions[2].files.stem, "customer");
}

TEST(StudyFile, ReportsMistakesWithLineAndRemedy) {
  const std::vector<std::pair<std::string, std::string>> cases = {
      {"", "s.toml, line 1: study: expected a table [study], which names the daybook."},
      {"[study]\n",
       "s.toml, line 1: [study] daybook: a study needs daybook = \"NAME.daybook\", or intake = "
       "\"NAME.toml\"."},
      {"[study\n", "s.toml, line 1: this is not valid "},
      {kHead, "s.toml contains no questions. Add a [[question]] with ask = \"frequen"},
      {kHead + "wokbook = \"x\"\n[[question]]\nask = \"first\"\n",
       "s.toml, line 3: [study] has no key \"wokbook\". Did you mean \"workbook\"?"},
      {kHead + "[[question]]\nask = \"frequncy\"\n",
       "s.toml, line 4: [[question]] ask: there is no question \"frequncy\". Did you mean \"frequency\"?"},
      {kHead + "[[question]]\nask = \"frequency\"\nwithn = 9\n",
       "s.toml, line 5: [[question]] has no key \"withn\". Did you mean \"within\"?"},
      {kHead + "[[question]]\nask = \"frequency\"\nwithin = \"soon\"\n",
       "s.toml, line 4: [[question]] ask: --within takes a length of time"},
      {kHead + "[[question]]\nask = \"first\"\nname = \"report\"\n",
       "s.toml, line 5: [[question]] name: \"report\" is the name of one of the study's own files. Choose "
       "anoth"},
      {kHead + "[[question]]\nask = \"frequency\"\nlist = 3\n",
       "s.toml, line 5: [[question]] list: expected true or false."},
      {kHead + "[[question]]\nask = \"frequency\"\nwithin = {a = 1}\n",
       "s.toml, line 5: [[question]] within: expected a text, a number, a date, true or false, o"}};
  for (const auto& [text, message] : cases)
    EXPECT_EQ(fault(text).substr(0, message.size()), message) << fault(text);
}

/// The file asks the same question again, for any question with any texts.
RC_GTEST_PROP(StudyFile, ASavedQuestionIsTheOneThatWasAsked, ()) {
  const TemporaryFolder folder;
  std::vector<analysis::OptionValues> saved;
  const std::vector<std::string> texts = hostile_texts();
  for (int i = *rc::gen::inRange(1, 4); i > 0; --i) {
    analysis::OptionValues values = {{"find", texts[*rc::gen::inRange<std::size_t>(0, texts.size())]}};
    if (*rc::gen::arbitrary<bool>()) values.emplace_back("figure", "none");
    const auto outcome =
        study::save_in_study(folder / "s.toml", folder / "shop.daybook", question_named("customer"), values);
    RC_ASSERT(outcome.has_value());
    saved.push_back(values);
  }
  const auto study = study::read_study(folder / "s.toml");
  RC_ASSERT(study.has_value());
  RC_ASSERT(study->questions.size() == saved.size());
  for (std::size_t i = 0; i < saved.size(); ++i) {
    std::sort(saved[i].begin(), saved[i].end());
    analysis::OptionValues read = study->questions[i].values;
    std::sort(read.begin(), read.end());
    RC_ASSERT(read == saved[i]);
  }
}

TEST(StudyFile, ASavedQuestionIsRejectedByTheStudyOfAnotherDaybook) {
  const TemporaryFolder folder;
  ASSERT_TRUE(study::save_in_study(folder / "s.toml", folder / "shop.daybook", question_named("first"), {}));
  const std::string before = read_file(folder / "s.toml");
  const auto other =
      study::save_in_study(folder / "s.toml", folder / "other.daybook", question_named("first"), {});
  ASSERT_FALSE(other.has_value());
  EXPECT_EQ(other.error().kind, ErrorKind::data);
  EXPECT_EQ(read_file(folder / "s.toml"), before);
}

}  // namespace
}  // namespace pear::test
