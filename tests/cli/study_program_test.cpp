// Studies by the built program: report, workbook, templates, what changed; the report in a browser.
#include <algorithm>
#include <filesystem>

#include <absl/strings/str_replace.h>
#include <fmt/format.h>
#include <gtest/gtest.h>
#include <nlohmann/json.hpp>

#include "app/side_table.hpp"
#include "output/tables/readable.hpp"
#include "storage/daybook_reader.hpp"
#include "support/csv_rows.hpp"
#include "support/hostile.hpp"
#include "support/other_programs.hpp"
#include "support/run_program.hpp"

namespace pear::test {
namespace {

std::string csv_field(const std::string& text) {
  std::string field = "\"";
  for (const char c : text) field += c == '"' ? "\"\"" : std::string(1, c);
  return field + "\"";
}

/// A shop whose customers and products have hostile names; its last orders are in a file of their own.
class StudyProgram : public testing::Test {
 protected:
  StudyProgram() {
    sell(0, 40);
    folder_.write("s.toml",
                  "[study]\ntitle = \"<b>What</b> & \\\"who\\\"\"\ncomment = \"See *this* "
                  "![p](http://example.invalid/p.png)\"\n"
                  "intake = \"shop.toml\"\nworkbook = \"s-out/all.xlsx\"\n"
                  "[[question]]\nask = \"frequency\"\n[[question]]\nask = \"crosstab\"\ndown = "
                  "\"product_name\"\nacross = \"customer_name\"\n"
                  "[[question]]\nask = \"concentration\"\nname = \"who\"\n"
                  "[[question]]\nask = \"first\"\nper = \"product\"\nwith = "
                  "\"customer_name\"\nfigure = \"none\"\n");
    folder_.write("shop.toml", "[shop]\ncurrency = \"EUR\"\n[lines]\nfile = \"lines.csv\"\n");
  }
  /// Orders number `from` to `to`, each with two lines.
  void sell(int from, int to) {
    const std::vector<std::string> names = hostile_texts();
    if (lines_.empty())
      lines_ = "order_id,order_date,customer_id,product_id,quantity,unit_price,customer_name,product_name\n";
    for (int i = from; i < to; ++i)
      for (const int product : {i % 7, (i * 3 + 1) % 11}) {
        const std::size_t customer = static_cast<std::size_t>(i) % names.size();
        lines_ += fmt::format("o{0},2024-{1:02}-{2:02},c{3},p{4},{5},2.50,{6},{7}\n", i, 1 + i / 25,
                              1 + i % 25, customer, product, 1 + i % 3, csv_field(names[customer]),
                              csv_field(names[static_cast<std::size_t>(product)]));
      }
    folder_.write("lines.csv", lines_);
  }
  ProgramRun study(std::vector<std::string> words = {}) {
    words.insert(words.begin(), {"study", "s.toml"});
    return run_pear(folder_, words);
  }
  std::map<std::string, std::string> bytes_of(const std::string& name) {
    std::map<std::string, std::string> bytes;
    for (const auto& entry : std::filesystem::recursive_directory_iterator(folder_ / name))
      if (entry.is_regular_file()) bytes[entry.path().filename().string()] = read_file(entry.path().string());
    return bytes;
  }
  TemporaryFolder folder_;
  std::string lines_;
};

TEST_F(StudyProgram, ReportsEverythingAndReproducibly) {
  const ProgramRun run = study();
  ASSERT_EQ(run.exit_code, 0) << run.err;
  EXPECT_NE(run.err.find("became lines of the daybook"), std::string::npos) << "imported first";
  for (const char* said : {"<b>What</b> & \"who\"\n", "frequency  ",
                           "Written    s-out/report.html, s-out/report.md, s-out/all.xlsx"})
    EXPECT_NE(run.out.find(said), std::string::npos) << run.out;
  const auto first = bytes_of("s-out");
  for (const char* file : {"frequency.csv", "frequency.svg", "who.csv", "report.html", "report.md",
                           "all.xlsx", "datapackage.json"})
    EXPECT_TRUE(first.contains(file)) << file;
  const ProgramRun again = study({"--threads", "1"});
  ASSERT_EQ(again.exit_code, 0) << again.err;
  EXPECT_EQ(again.err, "") << "not imported again";
  EXPECT_EQ(bytes_of("s-out"), first);
}

TEST_F(StudyProgram, TheReportIsSelfContainedWithAllTextAsText) {
  ASSERT_EQ(study().exit_code, 0);
  std::string own = read_file(folder_ / "s-out/report.html");
  own.insert(
      own.rfind("</body>"),
      "<script>addEventListener('load',()=>document.title=performance.getEntriesByType('resource').length+"
      "' requests')</script>");
  folder_.write("s-out/watched.html", own);
  const OtherRun visited = visit(folder_ / "s-out/watched.html");
  ASSERT_EQ(visited.exit_code, 0) << visited.err;
  EXPECT_EQ(visited.err.find("CONSOLE"), std::string::npos) << visited.err;
  EXPECT_NE(visited.out.find("<title>0 requests</title>"), std::string::npos)
      << "nothing is asked for elsewhere";
  const std::string& page = visited.out;
  EXPECT_NE(page.find("<h1>&lt;b&gt;What&lt;/b&gt; &amp; \"who\"</h1>"), std::string::npos);
  EXPECT_NE(page.find("<button type=\"button\" title=\"Sort by this column\">"), std::string::npos)
      << "the script ran";
  EXPECT_EQ(page.find("<img"), std::string::npos);
  EXPECT_EQ(page.find("<script>alert"), std::string::npos);
  EXPECT_NE(page.find("<bdi>&lt;script&gt;alert('x')&lt;/script&gt;</bdi>"), std::string::npos);
  EXPECT_NE(page.find("aria-label="), std::string::npos);
}

TEST_F(StudyProgram, AClickOnAHeadingSortsTheTable) {
  ASSERT_EQ(study().exit_code, 0);
  std::string page = read_file(folder_ / "s-out/report.html");
  const std::string click =
      "<script>const head=[...document.querySelectorAll('#who th')].find(h=>h.textContent==='customer id');"
      "head.querySelector('button').click();head.querySelector('button').click();"
      "document.title=[...document.querySelectorAll('#who "
      "tbody')][0].rows[0].cells[head.cellIndex].textContent;</script></body>";
  page.replace(page.rfind("</body>"), 7, click);
  folder_.write("s-out/clicked.html", page);
  const OtherRun visited = visit(folder_ / "s-out/clicked.html");
  std::string last;  // of the rows shown, in natural order
  const Rows rows = rows_of(folder_ / "s-out/who.csv");
  int largest = 0;
  for (std::size_t i = 0; i < std::min<std::size_t>(10, rows.size()); ++i)
    largest = std::max(largest, std::stoi(rows[i].at("customer_id").substr(1)));
  EXPECT_NE(visited.out.find(fmt::format("<title>c{}</title>", largest)), std::string::npos)
      << visited.out.substr(0, 400);
}

TEST_F(StudyProgram, TheWorkbookContainsEveryTable) {
  ASSERT_EQ(study().exit_code, 0);
  const OtherRun read = run_other("/usr/bin/python3 '" PEAR_TESTS "/support/read_workbook.py' '" +
                                  folder_ / "s-out/all.xlsx" + "'");
  ASSERT_EQ(read.exit_code, 0) << read.err;
  const auto book = nlohmann::json::parse(read.out);
  const auto package = nlohmann::json::parse(read_file(folder_ / "s-out/datapackage.json"));
  for (const auto& resource : package["resources"]) {
    const std::string name = resource["path"].get<std::string>();
    const auto& sheet = book.at(name.substr(0, name.size() - 4));
    const auto table = app::read_side_table(folder_ / ("s-out/" + name));
    ASSERT_TRUE(table.has_value()) << table.error().message;
    EXPECT_EQ(sheet["rows"].size(), table->rows.size() + 1) << name;
    const auto& fields = resource["schema"]["fields"];
    for (std::size_t row = 0; row < table->rows.size(); ++row)
      for (std::size_t i = 0; i < fields.size(); ++i) {
        const auto& cell = sheet["rows"][row + 1][i];
        const std::string& text = table->rows[row][i];
        if (text.empty()) {
          EXPECT_TRUE(cell.is_null()) << name << " row " << row;
          continue;
        }
        ASSERT_FALSE(cell.is_null()) << name << " row " << row;
        const std::string value = cell["value"];
        if (fields[i]["type"] == "string")
          EXPECT_EQ(value, output::without_controls(text));
        else if (fields[i]["type"] == "date")
          EXPECT_EQ(value.substr(0, 10), text);
        else
          EXPECT_NEAR(std::stod(value), std::stod(text), 1e-6) << name << " row " << row;
        EXPECT_EQ(cell["format"] == "0.0%", fields[i]["unit"] == "share");
      }
  }
}

/// Importing the intake file again would lose what --append added; only what is new is added.
TEST_F(StudyProgram, RefreshesAnAppendedDaybookByAppending) {
  ASSERT_EQ(study().exit_code, 0);
  const std::string header = lines_.substr(0, lines_.find('\n') + 1);
  const auto lines = [&] { return storage::DaybookFile::open(folder_ / "shop.daybook")->info().lines; };
  const std::uint32_t at_first = lines();
  folder_.write("more.csv", header + "x1,2025-01-05,new1,np1,1,2.50,a,b\n");
  ASSERT_EQ(run_pear(folder_, {"import", "more.csv", "--daybook", "shop.daybook", "--append"}).exit_code, 0);
  const std::string before = read_file(folder_ / "shop.daybook");
  const ProgramRun unchanged = study();
  ASSERT_EQ(unchanged.exit_code, 0) << unchanged.err;
  EXPECT_TRUE(read_file(folder_ / "shop.daybook") == before) << "no source is new";
  folder_.write("lines.csv", lines_ + "x2,2025-01-06,new2,np2,1,2.50,a2,b2\n");  // it has grown
  const ProgramRun run = study();
  ASSERT_EQ(run.exit_code, 0) << run.err;
  EXPECT_EQ(lines(), at_first + 2) << run.err;
}

TEST_F(StudyProgram, AFailedQuestionStopsNoOther) {
  std::string text = read_file(folder_ / "s.toml");
  folder_.write(
      "s.toml",
      text + "[[question]]\nask = \"customer\"\nfind = \"nobody\"\n[[question]]\nask = \"baskets\"\n");
  const ProgramRun run = study();
  EXPECT_EQ(run.exit_code, 2);
  EXPECT_NE(run.err.find("1 of 6 questions failed: customer: there is no customer with \"nobody\""),
            std::string::npos)
      << run.err;
  EXPECT_NE(run.out.find("Failed: there is no customer"), std::string::npos);
  EXPECT_TRUE(std::filesystem::exists(folder_ / "s-out/baskets.csv"));
  EXPECT_NE(read_file(folder_ / "s-out/report.html")
                .find("This question could not be answered: there is no customer"),
            std::string::npos);
  EXPECT_NE(read_file(folder_ / "s-out/report.md")
                .find("This question could not be answered: there is no customer"),
            std::string::npos);
  const ProgramRun only = study({"--question", "baskts"});
  EXPECT_EQ(only.exit_code, 2);
  EXPECT_NE(only.err.find("Did you mean \"baskets\"?"), std::string::npos);
  EXPECT_EQ(study({"--question", "baskets", "--out", "one"}).exit_code, 0);
  EXPECT_FALSE(std::filesystem::exists(folder_ / "one/frequency.csv"));
}

TEST_F(StudyProgram, OneQuestionLeavesReportWorkbookAndTemplatesAsTheyAre) {
  const std::string study_file = read_file(folder_ / "s.toml");
  folder_.write("s.toml",
                absl::StrReplaceAll(study_file, {{"intake = ", "template = [\"letter.md\"]\nintake = "}}));
  folder_.write("letter.md", "Dear all: {{who.headline.1}}");
  ASSERT_EQ(study().exit_code, 0);
  const auto before = bytes_of("s-out");
  ASSERT_TRUE(before.contains("letter.md"));
  folder_.write("letter.md", "Dear all, in other words: {{who.headline.1}}");
  std::filesystem::remove(folder_ / "s-out/who.csv");
  ASSERT_EQ(study({"--question", "who"}).exit_code, 0);
  const auto after = bytes_of("s-out");
  for (const char* file : {"letter.md", "report.html", "report.md", "all.xlsx", "who.csv", "frequency.csv"})
    EXPECT_TRUE(after.at(file) == before.at(file)) << file;
}

TEST_F(StudyProgram, TemplatesShowTheResults) {
  ASSERT_EQ(study().exit_code, 0);
  const Rows rows = rows_of(folder_ / "s-out/who.csv");
  const auto fill = [&](const std::string& name, const std::string& text) {
    folder_.write(name, text);
    const ProgramRun run = study({"--template", name});
    return run.exit_code == 0 ? read_file(folder_ / ("s-out/" + name))
                              : fmt::format("{}: {}", run.exit_code, run.err);
  };
  EXPECT_EQ(fill("t.txt",
                 "{{title}}|{{who.cell.customer_id.1}}|{{who.count}}|{{#who.rows}}{{rank}},{{/"
                 "who.rows}}|{{frequency.figure}}"),
            fmt::format("<b>What</b> & \"who\"|{}|{}|1,2,3,4,5,6,7,8,9,10,|frequency.png",
                        rows.front().at("customer_id"), rows.size()));
  EXPECT_EQ(fill("t.html", "<p>{{title}}</p>"), "<p>&lt;b&gt;What&lt;/b&gt; &amp; &quot;who&quot;</p>");
  EXPECT_EQ(fill("t.md", "{{{frequency.figure}}}").substr(0, 2), "![");
  const std::string page =
      fill("all.html", "{{{frequency.figure}}}{{{who.table}}}{{frequency.headline}}{{frequency.population}}");
  EXPECT_NE(page.find("<svg role=\"img\""), std::string::npos);
  EXPECT_NE(page.find("<table>"), std::string::npos);
  // a name of the data that is a template itself is not filled
  std::string names;
  for (std::size_t i = 1; i <= hostile_texts().size(); ++i)
    names += fmt::format("{{{{first.cell.customer_name.{}}}}}\n", i);
  EXPECT_NE(fill("n.txt", names).find("{{title}} {{{title}}} {{#x}}\n"), std::string::npos);
  EXPECT_EQ(fill("bad.txt", "a\n{{who.hedline}}"),
            "3: pear-thread: error: bad.txt, line 2: there is no result called \"who.hedline\". Did you mean "
            "\"who.headline\"?\n");
  EXPECT_EQ(fill("bad.txt", "a\nb {{#who.rows}}"),
            "3: pear-thread: error: bad.txt, line 2: this is not a mustache template: Unclosed section "
            "\"who.rows\".\n");
}

/// The tables of both runs, matched by their key, give the same changes.
TEST_F(StudyProgram, ChangesEqualTheDifferencesOfTheFiles) {
  ASSERT_EQ(study({"--out", "old"}).exit_code, 0);
  sell(40, 60);
  const ProgramRun run = study({"--out", "new", "--against", "old"});
  ASSERT_EQ(run.exit_code, 0) << run.err;
  EXPECT_NE(run.out.find("changed since old: "), std::string::npos);
  const std::string key = "customer_id", measure = "amount";
  std::map<std::string, double> then, now;
  for (const auto& row : rows_of(folder_ / "old/who.csv")) then[row.at(key)] = std::stod(row.at(measure));
  for (const auto& row : rows_of(folder_ / "new/who.csv")) now[row.at(key)] = std::stod(row.at(measure));
  std::map<std::string, std::string> expected;
  for (const auto& [id, amount] : now)
    if (!then.contains(id))
      expected[id] = "new";
    else if (amount != then[id])
      expected[id] = amount > then[id] ? "risen" : "fallen";
  for (const auto& [id, amount] : then)
    if (!now.contains(id)) expected[id] = "gone";
  ASSERT_FALSE(expected.empty());
  std::map<std::string, std::string> told;
  double before = 1e99;
  for (const auto& row : rows_of(folder_ / "new/changes-who.csv")) {
    told[row.at(key)] = row.at("change");
    EXPECT_NEAR(std::stod(row.at("difference")), now[row.at(key)] - then[row.at(key)], 1e-9);
    EXPECT_LE(std::abs(std::stod(row.at("difference"))), before) << "largest first";
    before = std::abs(std::stod(row.at("difference")));
  }
  EXPECT_EQ(told, expected);
  const ProgramRun same = study({"--out", "again", "--against", "new"});
  EXPECT_NE(same.out.find("Nothing has changed since new:"), std::string::npos) << same.out;
  EXPECT_EQ(study({"--against", "nowhere"}).exit_code, 4);
}

TEST_F(StudyProgram, SavesAQuestionAndRunsItAgain) {
  ASSERT_EQ(study().exit_code, 0);
  const std::vector<std::string> asked = {
      "frequency", "shop.daybook", "--within",  "30",        "--include-incomplete",
      "--out",     "single",       "--save-as", "saved.toml"};
  const ProgramRun run = run_pear(folder_, asked);
  ASSERT_EQ(run.exit_code, 0) << run.err;
  EXPECT_EQ(run_pear(folder_, {"study", "saved.toml"}).exit_code, 0);
  EXPECT_EQ(read_file(folder_ / "saved-out/frequency.csv"), read_file(folder_ / "single/frequency.csv"));
}

}  // namespace
}  // namespace pear::test
