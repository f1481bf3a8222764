// Templates: every name has its value, every mistake its line.
#include "study/report/template.hpp"

#include <gtest/gtest.h>
#include <rapidcheck/gtest.h>

#include "output/tables/readable.hpp"
#include "study/made_up_answers.hpp"
#include "study/report/html.hpp"
#include "study/report/report_markdown.hpp"
#include "study/report/report_page.hpp"
#include "study/report/report_table.hpp"
#include "study/report/study_names.hpp"
#include "support/hostile.hpp"
#include "support/temporary_folder.hpp"

namespace pear::test {
namespace {

using study::TemplateKind;

/// Two questions with answers and one without. The second's name and column contain points.
class Template : public testing::Test {
 protected:
  Template() : answers_(3) {
    result::Result first;
    first.headline = {"Two products.", "One is <new>."};
    first.population = {3, 4, 5, 0, std::nullopt, std::nullopt, std::nullopt};
    first.tables = {
        {"",
         "Products",
         "",
         {result::text_column("id", "", text_array({"P1", "P2", "P3"})),
          result::integer_column("amount", result::Unit::money, "", {12'345'600, 0, result::kEmptyCell})}},
        {"months",
         "Months",
         "",
         {result::text_column("month", "", text_array({"2024-01"})),
          result::share_column("share.of.all", "", {0.125})}}};
    answers_.add("first", first);
    result::Result second;
    second.headline = {"Nothing."};
    answers_.add("second.one", second);
    answers_.add_failed("broken", "there are no costs");
    answers_.question(0).top = 2;
    answers_.question(0).title = "First & last";
    answers_.question(1).comment = "A *remark*";
    answers_.study().comment = "All of it";
  }
  std::string fill(const std::string& text, TemplateKind kind = TemplateKind::text) {
    const auto filled = study::fill_template(answers_.get(), text, "letter.txt", kind);
    return filled ? *filled : "fault: " + filled.error().message;
  }
  MadeUpAnswers answers_;
};

TEST_F(Template, FillsEveryName) {
  const std::pair<std::string, std::string> cases[] = {
      {"{{title}}|{{comment}}", "The <month>|All of it"},
      {"{{first.title}}|{{second.one.comment}}", "First & last|A *remark*"},
      {"{{first.headline}}", "Two products. One is <new>."},
      {"{{first.headline.1}}|{{first.headline.2}}", "Two products.|One is <new>."},
      {"{{first.population}}", "3 customers, 4 orders, 5 lines"},
      {"{{first.selection}}|{{second.one.command}}", "all lines|pear-thread second.one"},
      {"{{first.count}}|{{first-months.count}}", "3|1"},
      {"{{first.cell.amount.1}}|{{first.cell.amount.2}}|{{first.cell.amount.3}}", "1,234.56|0.00|-"},
      {"{{first-months.cell.share.of.all.1}}", "12.5%"},
      {"{{#first.rows}}{{id}}={{amount}};{{/first.rows}}", "P1=1,234.56;P2=0.00;"},
      {"{{#first.rows}}{{id}} of {{first.count}}, {{title}};{{/first.rows}}",
       "P1 of 3, The <month>;P2 of 3, The <month>;"},
      {"{{^first.rows}}none{{/first.rows}}{{! a remark}}", ""}};
  for (const auto& [text, wanted] : cases) EXPECT_EQ(fill(text), wanted) << text;
}

TEST_F(Template, EscapesForTheKindOfTheFile) {
  EXPECT_EQ(fill("{{first.headline.2}} {{{first.headline.2}}}", TemplateKind::html),
            "One is &lt;new&gt;. One is <new>.");
  EXPECT_EQ(fill("{{second.one.comment}}", TemplateKind::markdown), "A \\*remark\\*");
  EXPECT_NE(
      fill("{{{first.table}}}", TemplateKind::html).find("<td class=\"n\" data-v=\"1234.56\">1,234.56</td>"),
      std::string::npos);
  EXPECT_EQ(fill("{{{first.table}}}", TemplateKind::html).find("P3"), std::string::npos)
      << "the first two rows";
  EXPECT_NE(fill("{{{first.table}}}", TemplateKind::markdown).find("| P2"), std::string::npos);
  EXPECT_NE(fill("{{{first.table}}}").find("P2"), std::string::npos);
  const std::pair<const char*, TemplateKind> kinds[] = {
      {"a.html", TemplateKind::html},   {"a.b.htm", TemplateKind::html},
      {"a.svg", TemplateKind::html},    {"a.xml", TemplateKind::html},
      {"a.md", TemplateKind::markdown}, {"a.markdown", TemplateKind::markdown},
      {"html", TemplateKind::text},     {"a.html.txt", TemplateKind::text}};
  for (const auto& [path, kind] : kinds) EXPECT_EQ(study::template_kind(path), kind) << path;
}

TEST_F(Template, ReportsMistakesWithTheLine) {
  const std::pair<std::string, std::string> cases[] = {
      {"a\n\n{{ frst.headline }}",
       "letter.txt, line 3: there is no result called \"frst.headline\". Did you mean \"first.headline\"?"},
      {"{{first.headline.3}}", "letter.txt, line 1: there is no result called \"first.headline.3\"."},
      {"{{first.headline.0}}", "letter.txt, line 1: there is no result called \"first.headline.0\"."},
      {"{{first.cell.amount.4}}", "letter.txt, line 1: there is no result called \"first.cell.amount.4\"."},
      {"{{first.cell.amount.x}}", "letter.txt, line 1: there is no result called \"first.cell.amount.x\"."},
      {"{{first.cell.amont.1}}",
       "letter.txt, line 1: there is no result called \"first.cell.amont.1\". Did you mean "
       "\"first.cell.amount.1\"?"},
      {"{{first.figure}}", "letter.txt, line 1: there is no result called \"first.figure\"."},
      {"\n{{broken.headline}}",
       "letter.txt, line 2: the question \"broken\" could not be answered: there are no costs"},
      {"\n{{#first.rows}}\n{{nam}}{{/first.rows}}", "letter.txt, line 3: there is no result called \"nam\"."},
      {"x\n{{#first.rows}}", "letter.txt, line 2: this is not a mustache template: "},
      {"x\n\n{{title", "letter.txt, line 3: this is not a mustache template: "}};
  for (const auto& [text, wanted] : cases)
    EXPECT_EQ(fill(text).substr(0, 7 + wanted.size()), "fault: " + wanted) << fill(text);
  EXPECT_EQ(fill("{{broken.title}}"), "broken") << "a failed question has a title";
}

TEST_F(Template, EverySuggestedNameHasAValue) {
  const study::StudyNames names(answers_.get(), TemplateKind::text);
  std::size_t tried = 0;
  for (const std::string& name : names.all()) {
    if (name.starts_with("broken.") && name != "broken.title" && name != "broken.comment") continue;
    if (name.ends_with(".rows")) {
      EXPECT_TRUE(names.rows(name).has_value()) << name;
    } else {
      const auto value = names.value(name);
      EXPECT_TRUE(value && *value) << name;
    }
    ++tried;
  }
  EXPECT_GE(tried, 24U);
}

/// The main table of a question is shown, its other tables are folded, and those without rows are left out.
TEST(Reports, FoldFurtherTables) {
  MadeUpAnswers answers(2);
  result::Result result;
  const auto of = [](const std::string& part, const std::vector<std::string>& ids) {
    return result::Table{part, "Table " + part, "", {result::text_column("id", "", text_array(ids))}};
  };
  result.tables = {of("main", {"P1"}), of("months", {"P1"}), of("none", {}), of("hidden", {"P1"})};
  result.tables[3].most_shown = 0;
  answers.add("first", result);
  answers.add_failed("broken", "there are no costs");
  const std::string page = *study::render_report_page(answers.get());
  EXPECT_NE(page.find("<h3>Table main</h3>"), std::string::npos);
  EXPECT_EQ(page.find("<summary>Table main</summary>"), std::string::npos);
  EXPECT_NE(page.find("<details><summary>Table months</summary><h3>Table months</h3>"), std::string::npos);
  EXPECT_EQ(page.find("Table none"), std::string::npos);
  EXPECT_EQ(page.find("Table hidden"), std::string::npos);
  EXPECT_NE(page.find("This question could not be answered: there are no costs"), std::string::npos);
  EXPECT_NE(page.find("<a href=\"first-months.csv\">first-months.csv</a>"), std::string::npos);
}

/// Every part of a result is in the report, in the order in which it is read.
TEST(Reports, ContainEveryPartOfAResult) {
  MadeUpAnswers answers(1);
  result::Result result;
  result.headline = {"First finding.", "Second finding."};
  result.notes = {"First note.", "Second note."};
  result.definitions = {{"new", "never before"}};
  result.checks = {{"parts add up", true}};
  result.population = {3, 4, 5, 0, std::nullopt, std::nullopt, std::nullopt};
  result.tables = {{"", "Products", "One row each.", {result::text_column("id", "", text_array({"P1"}))}}};
  answers.add("first", result).answer->trail = {"pear-thread first shop.daybook", "shop.daybook", "abcdef",
                                                "lines of May"};
  answers.question(0).title = "What was first";
  answers.question(0).comment = "A remark";
  for (const std::string& page :
       {*study::render_report_page(answers.get()), study::render_report_markdown(answers.get())}) {
    std::size_t at = 0;
    for (const char* part :
         {"What was first", "First finding.", "Second finding.", "A remark", "Products", "P1"}) {
      const std::size_t next = page.find(part, at);
      ASSERT_NE(next, std::string::npos) << part << " is not after what comes before it in\n" << page;
      at = next;
    }
    for (const char* part : {"First note.", "Second note.", "3 customers", "lines of May"})
      EXPECT_NE(page.find(part), std::string::npos) << part;
  }
  const std::string page = *study::render_report_page(answers.get());
  for (const char* part :
       {"never before", "parts add up", "Check passed", "pear-thread first shop.daybook", "abcdef"})
    EXPECT_NE(page.find(part), std::string::npos) << part;
}

/// A wide table shows its first columns, and those that are always shown.
TEST(Reports, ShowTheMostImportantColumns) {
  result::Table table{"", "Wide", "", {}};
  for (int i = 0; i < 12; ++i)
    table.columns.push_back(result::text_column("c" + std::to_string(i), "", text_array({"x", "y", "z"})));
  table.columns[10].always_shown = true;
  const auto shown = [](const std::string& html) {
    std::string names;
    for (int i = 0; i < 12; ++i)
      if (html.find(">c" + std::to_string(i) + "<") != std::string::npos) names += " " + std::to_string(i);
    return names;
  };
  const std::string html = study::render_html_table(table, 2);
  EXPECT_EQ(shown(html), " 0 1 2 3 4 5 6 10");
  EXPECT_NE(html.find("1 row and 4 columns more in the file."), std::string::npos) << html;
  EXPECT_NE(html.find("<td><bdi>y</bdi></td>"), std::string::npos);
  EXPECT_EQ(html.find("<td><bdi>z</bdi></td>"), std::string::npos);
}

/// All texts of a study stay text in its reports.
RC_GTEST_PROP(Reports, TextsOfTheShopAreNeverMarkup, ()) {
  const std::vector<std::string> all = hostile_texts();
  const std::string text = all[*rc::gen::inRange<std::size_t>(0, all.size())];
  MadeUpAnswers answers(2);
  result::Result result;
  result.headline = {text, text};
  result.notes = {text};
  result.selection = text;
  result.tables = {{"", text, text, {result::text_column("id", text, text_array({text, "P2"}))}}};
  study::StudyAnswer& entry = answers.add("first", result);
  entry.answer->trail.command_line = text;
  entry.answer->trail.selection = text;
  answers.add_failed("second", text);
  answers.question(0).title = text;
  answers.study().title = text;
  const auto page = study::render_report_page(answers.get());
  RC_ASSERT(page.has_value());
  for (const std::string mark : {"<script>alert", "<img", "onerror=\"", "<title></title></style>"})
    RC_ASSERT(page->find(mark) == std::string::npos);
  const std::string markdown = study::markdown_as_html(study::render_report_markdown(answers.get()));
  for (const std::string mark : {"<script", "<img", "<em>", "<a href=\"http"})
    RC_ASSERT(markdown.find(mark) == std::string::npos);
}

}  // namespace
}  // namespace pear::test
