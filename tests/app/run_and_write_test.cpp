// From a daybook file and options to files: what is written, what is refused, and the trail.
#include "app/run_and_write.hpp"

#include <algorithm>
#include <cstdio>

#include <gtest/gtest.h>
#include <rapidcheck/gtest.h>

#include "app/side_table.hpp"
#include "questions/all_questions.hpp"
#include "sources/csv_reader.hpp"
#include "storage/daybook_writer.hpp"
#include "support/asking.hpp"
#include "support/results.hpp"
#include "support/temporary_folder.hpp"

namespace pear::test {
namespace {

const analysis::Question& question_named(const std::string& name) {
  return *std::find_if(questions::all_questions().begin(), questions::all_questions().end(),
                       [&](const analysis::Question& each) { return each.name == name; });
}

/// All results of a question's files equal those of the core, for questions that need no options.
RC_GTEST_PROP(RunAndWrite, FilesContainTheResultOfTheCore, ()) {
  const TemporaryFolder folder;
  const daybook::Daybook daybook = random_daybook();
  RC_ASSERT(
      storage::write_daybook(folder / "shop.daybook", daybook, {"Shop", "EUR", {}, {}, {}}).has_value());
  const std::string name =
      *rc::gen::element<std::string>("first", "frequency", "distinct", "concentration", "prices");
  const analysis::OptionValues values =
      pick(0, 1) == 0 ? analysis::OptionValues{} : analysis::OptionValues{{"where", "quantity <> 2"}};
  const analysis::Question& question = question_named(name);
  const auto core = try_to_ask(name, values, daybook, "EUR");
  std::vector<std::string> stages, laps;
  app::RunRequest request{folder / "shop.daybook", values, {folder / "out", "stem", {}}};
  std::vector<std::uint64_t> totals;
  request.progress = [&](const std::string& stage, std::uint64_t, std::uint64_t all) {
    stages.push_back(stage);
    totals.push_back(all);
  };
  request.lap = [&](std::string_view what) { laps.emplace_back(what); };
  const auto answer = app::run_and_write(question, request);
  RC_ASSERT(answer.has_value() == core.has_value());
  if (!answer) {
    RC_ASSERT(answer.error().message == core.error().message);
    return;
  }
  RC_ASSERT(answer->result.headline == core->headline);
  RC_ASSERT(laps == (std::vector<std::string>{"daybook read", "question answered", "files written"}));
  RC_ASSERT(stages.front() == "reading shop.daybook");
  RC_ASSERT(totals.front() == 0U);  // not known while the file is read
  std::size_t files = 1;
  for (const result::Table& each : core->tables) {
    const auto written =
        app::read_side_table(folder / "out/stem" + (each.part.empty() ? "" : "-" + each.part) + ".csv");
    RC_ASSERT(written.has_value());
    std::vector<std::string> names;
    for (const result::TableColumn& column : each.columns) names.push_back(column.name);
    RC_ASSERT(written->header == names);
    RC_ASSERT(written->rows == columns_of(each, names));
    ++files;
  }
  RC_ASSERT(answer->files.paths.size() == files);
  RC_ASSERT(answer->files.figures.empty());
  RC_ASSERT(answer->trail.daybook == "shop.daybook");
}

TEST(RunAndWrite, AQuestionMayReadAllColumnsOfALevel) {
  const TemporaryFolder folder;
  daybook::DaybookParts parts = build({{"A1", "2024-01-01", "C1", "P1", 1, 150}}).daybook.take_parts();
  parts.columns.push_back({"credit", daybook::Level::customer, daybook::DecimalValues{{5}}});
  parts.columns.push_back({"weight", daybook::Level::product, daybook::DecimalValues{{7}}});
  ASSERT_TRUE(storage::write_daybook(folder / "shop.daybook", daybook::Daybook(std::move(parts)),
                                     {"Shop", "EUR", {}, {}, {}}));
  analysis::Question question = question_named("first");
  question.prepare = [](const analysis::OptionValues&) -> OrError<analysis::PreparedQuestion> {
    analysis::PreparedQuestion prepared;
    prepared.level = daybook::Level::customer;
    prepared.ask = [](const analysis::QuestionInput& input) -> OrError<result::Result> {
      result::Result result;
      result.question = "first";
      result.checks = {{"it has the customer's column", input.daybook.find("credit") != nullptr},
                       {"it has no other", input.daybook.find("weight") == nullptr}};
      return result;
    };
    return prepared;
  };
  const auto answer =
      app::run_and_write(question, {folder / "shop.daybook", {}, {folder / "out", "first", {}}});
  EXPECT_TRUE(answer.has_value()) << answer.error().message;
}

TEST(RunAndWrite, AFailedCheckIsADefectAndWritesNothing) {
  const TemporaryFolder folder;
  ASSERT_TRUE(storage::write_daybook(folder / "shop.daybook",
                                     build({{"A1", "2024-01-01", "C1", "P1", 1, 150}}).daybook,
                                     {"Shop", "EUR", {}, {}, {}}));
  analysis::Question question = question_named("first");
  question.prepare = [](const analysis::OptionValues&) -> OrError<analysis::PreparedQuestion> {
    analysis::PreparedQuestion prepared;
    prepared.columns = {"order_date", "is_return"};
    prepared.ask = [](const analysis::QuestionInput&) -> OrError<result::Result> {
      result::Result result;
      result.question = "first";
      result.checks = {{"one is one", true}, {"one is two", false}, {"all is lost", false}};
      return result;
    };
    return prepared;
  };
  const auto answer =
      app::run_and_write(question, {folder / "shop.daybook", {}, {folder / "out", "first", {}}});
  ASSERT_FALSE(answer.has_value());
  EXPECT_EQ(answer.error().kind, ErrorKind::internal);
  EXPECT_EQ(answer.error().message,
            "first failed a check of its own results: one is two; all is lost. Nothing was written. This is "
            "a defect of "
            "pear-thread or of the daybook; run pear-thread status --verify.");
  EXPECT_TRUE(std::filesystem::is_empty(folder / "out"));
  const auto missing = app::run_and_write(question_named("first"),
                                          {folder / "none.daybook", {}, {folder / "other", "first", {}}});
  EXPECT_EQ(missing.error().kind, ErrorKind::io);
  EXPECT_FALSE(std::filesystem::exists(folder / "other"));
}

TEST(FilePlan, MeansWhatTheOptionsSay) {
  const analysis::Question& question = question_named("frequency");
  const auto plan = app::file_plan(question, {}, "out");
  ASSERT_TRUE(plan);
  EXPECT_EQ(plan->stem + " " + plan->folder, "frequency out");
  EXPECT_EQ(plan->figures,
            (std::vector<output::FigureFormat>{output::FigureFormat::svg, output::FigureFormat::png}));
  EXPECT_EQ(plan->tables, (std::vector<output::TableFormat>{output::TableFormat::csv}));
  const auto other = app::file_plan(
      question,
      {{"name", "bands"}, {"figure", "none"}, {"format", "md,csv,md"}, {"formulas", "text"}, {"bom", "true"}},
      "out");
  ASSERT_TRUE(other);
  EXPECT_EQ(other->stem, "bands");
  EXPECT_TRUE(other->figures.empty());
  EXPECT_EQ(other->tables,
            (std::vector<output::TableFormat>{output::TableFormat::md, output::TableFormat::csv}));
  EXPECT_TRUE(other->csv.formulas == output::Formulas::as_text);
  const std::pair<analysis::OptionValues, std::string> faults[] = {
      {{{"name", "a/b"}}, "--name needs the name of a file without a folder, not \"a/b\"."},
      {{{"name", ""}}, "--name needs the name of a file without a folder, not \"\"."},
      {{{"name", "datapackage"}},
       "--name datapackage: that is the file that describes the others. Choose another name."},
      {{{"figure", "svg,none"}}, "--figure none cannot be combined with other formats."},
      {{{"figure", "gif"}}, "--figure takes svg, png or none, not \"gif\"."},
      {{{"format", "csv,xls"}}, "--format takes csv, json, xlsx or md, not \"xls\". Did you mean \"xlsx\"?"},
      {{{"formulas", "keep,text"}}, "--formulas takes one word: keep or text."}};
  for (const auto& [values, message] : faults) {
    const auto refused = app::file_plan(question, values, "out");
    ASSERT_FALSE(refused) << message;
    EXPECT_EQ(refused.error().message, message);
    EXPECT_EQ(refused.error().kind, ErrorKind::usage);
  }
  EXPECT_EQ(*app::rows_to_show(question, {}), question.rows_shown);
  EXPECT_EQ(*app::rows_to_show(question, {{"top", "0"}}), 0U);
  EXPECT_FALSE(app::rows_to_show(question, {{"top", "-1"}}));
  EXPECT_FALSE(app::rows_to_show(question, {{"top", "1000001"}}));
}

/// The words that a shell makes of a command line.
std::vector<std::string> words_of(const std::string& line) {
  FILE* shell = popen(("set -f; for word in " + line + "; do printf '%s\\0' \"$word\"; done").c_str(), "r");
  std::string all;
  for (int c = 0; (c = std::fgetc(shell)) != EOF;) all += static_cast<char>(c);
  pclose(shell);
  std::vector<std::string> words;
  for (std::size_t at = 0; at < all.size(); at = all.find('\0', at) + 1)
    words.push_back(all.substr(at, all.find('\0', at) - at));
  return words;
}

/// The command in the trail is the one to run again: a shell reads the same values from it.
RC_GTEST_PROP(Trail, ACommandCanBeRunAgain, ()) {
  std::string value;
  const std::string characters = "ab '\"\\$`*?()<>|;&#~{}[]=\n\t,5ä";
  for (int i = pick(0, 8); i > 0; --i)
    value += characters[static_cast<std::size_t>(pick(0, static_cast<int>(characters.size()) - 1))];
  const std::string line = app::command_text(question_named("customer"), "/some/folder/shop.daybook",
                                             {{"where", value},
                                              {"find", value},
                                              {"out", "elsewhere"},
                                              {"threads", "2"},
                                              {"limit", "3"},
                                              {"top", "5"},
                                              {"figure", "none"}});
  RC_ASSERT(words_of(line) == (std::vector<std::string>{"pear-thread", "customer", value, "shop.daybook",
                                                        "--where", value, "--limit", "3"}));
}

TEST(SideTables, AreReadAsTextsWithTheirLines) {
  const TemporaryFolder folder;
  const std::string path = folder.write("stock.csv", "Article No;In Stock\n\nP1;5\n\"P\n2\";\n");
  const auto table = app::read_side_table(path);
  ASSERT_TRUE(table) << table.error().message;
  EXPECT_EQ(table->rows, (Cells{{"P1", "5"}, {"P\n2", ""}}));
  EXPECT_EQ(table->lines, (std::vector<std::uint64_t>{3, 4}));
  EXPECT_EQ(table->column("in_stock"), 1U);
  EXPECT_EQ(table->column("price"), 2U);
  EXPECT_EQ(table->place_of(1, 0), path + " line 4, column Article No");
  EXPECT_TRUE(table->require("a stock list", {"article_no", "in_stock"}));
  EXPECT_EQ(table->require("a stock list", {"article_no", "in_stock", "price"}).error().message,
            path +
                ": a stock list needs the columns article_no, in_stock and price; this one has Article No, "
                "In Stock.");
  EXPECT_EQ(app::read_side_table(folder.write("short.csv", "a,b\n1,2\n3\n4\n")).error().message,
            folder / "short.csv" + " line 3: has 1 field where the header has 2.");
  EXPECT_EQ(app::read_side_table(folder.write("empty.csv", "")).error().message,
            folder / "empty.csv" + " is empty: it has no header and no rows.");
  EXPECT_EQ(app::read_side_table(folder / "none.csv").error().kind, ErrorKind::io);
  const std::vector<analysis::OptionInfo> options = {{"stock", "FILE", "", "", false, true},
                                                     {"budget", "N", "", ""}};
  const auto tables = app::read_side_tables(options, {{"budget", "5"}, {"stock", path}, {"other", "x"}});
  ASSERT_TRUE(tables);
  ASSERT_EQ(tables->size(), 1U);
  EXPECT_EQ(tables->at("stock").rows.size(), 2U);
}

}  // namespace
}  // namespace pear::test
