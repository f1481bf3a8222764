// Nothing is lost, half written or overwritten when the system or another program interferes.
#include <chrono>
#include <csignal>
#include <thread>

#include <fmt/format.h>
#include <gtest/gtest.h>

#include "storage/daybook_reader.hpp"
#include "support/made_up_shop.hpp"
#include "support/run_program.hpp"

namespace pear::test {
namespace {

const std::string kLineColumns = "order_id,order_date,customer_id,product_id,quantity,unit_price\n";
const std::string kTwoLines = kLineColumns + "A1,2024-01-01,C1,P1,1,2\nA2,2024-02-01,C2,P2,2,3\n";

std::string many_lines(const std::string& prefix, int lines) {
  std::string text = kLineColumns;
  for (int i = 0; i < lines; ++i)
    text += fmt::format("{}{},2024-03-{:02},C{},P{},1,2\n", prefix, i, 1 + i % 28, i % 500, i % 30);
  return text;
}

std::uint32_t lines_of(const std::string& daybook) {
  const auto file = storage::DaybookFile::open(daybook);
  return file ? file->info().lines : 0;
}

/// All files of a folder with their contents, hidden ones too.
std::map<std::string, std::string> contents(const std::string& folder) {
  std::map<std::string, std::string> all;
  for (const auto& entry : std::filesystem::directory_iterator(folder))
    all[entry.path().filename().string()] = read_file(entry.path().string());
  return all;
}

void wait(int milliseconds) { std::this_thread::sleep_for(std::chrono::milliseconds(milliseconds)); }

TEST(Reliability, NoAppendIsLostWhenTwoRunAtOnce) {
  const TemporaryFolder folder;
  folder.write("first.csv", kTwoLines);
  folder.write("a.csv", many_lines("X", 20'000));
  folder.write("b.csv", many_lines("Y", 20'000));
  for (int round = 0; round < 4; ++round) {
    ASSERT_EQ(run_pear(folder, {"import", "first.csv", "--daybook", "s.daybook", "--replace"}).exit_code, 0);
    const bool waits = round % 2 == 0;
    std::vector<pid_t> imports;
    for (const char* file : {"a", "b"}) {
      std::vector<std::string> words = {
          "import", fmt::format("{}.csv", file),   "--append", "--daybook", "s.daybook",
          "--out",  fmt::format("report-{}", file)};
      if (waits) words.insert(words.end(), {"--wait", "120"});
      imports.push_back(start_pear(folder, words, folder / fmt::format("err-{}", file)));
    }
    std::uint32_t expected = 2;
    for (const pid_t import : imports) {
      const int code = exit_code_of(import);
      EXPECT_TRUE(code == 0 || (!waits && code == 4)) << code;
      if (code == 0) expected += 20'000;
    }
    EXPECT_EQ(lines_of(folder / "s.daybook"), expected);
    const std::string said = read_file(folder / "err-a") + read_file(folder / "err-b");
    EXPECT_EQ(expected < 40'002, said.find("another import is writing it now") != std::string::npos) << said;
  }
}

TEST(Reliability, ASignalEndsAnImportWithAMessageAndNoLeftovers) {
  const TemporaryFolder folder;
  folder.write("old.csv", kTwoLines);
  folder.write("new.csv", many_lines("A", 300'000) + "A9,2024-99-01,C1,P1,1,2\n");
  ASSERT_EQ(run_pear(folder, {"import", "old.csv", "--daybook", "s.daybook"}).exit_code, 0);
  const std::string before = folder.list();
  int stopped = 0;
  for (const int signal : {SIGINT, SIGTERM, SIGHUP})
    for (const int milliseconds : {20, 60, 120, 200}) {
      const pid_t import =
          start_pear(folder, {"import", "new.csv", "--daybook", "s.daybook", "--replace"}, folder / "err");
      wait(milliseconds);
      kill(import, signal);
      const int code = exit_code_of(import);
      if (code == 0) continue;  // it was faster
      EXPECT_EQ(code, 128 + signal);
      const std::string said = read_file(folder / "err");
      EXPECT_TRUE(said.empty() || said.starts_with("pear-thread: stopped by ")) << said;
      stopped += said.empty() ? 0 : 1;  // the system was still loading the program
      std::filesystem::remove(folder / "err");
      EXPECT_EQ(folder.list(), before);
      for (const auto& [name, text] : contents(folder / "s-import"))
        EXPECT_FALSE(name.starts_with(".")) << name;
    }
  EXPECT_GT(stopped, 0);
}

TEST(Reliability, AQuestionThatIsStoppedLeavesTheOldFilesOrTheNewOnes) {
  const TemporaryFolder folder, scratch;
  make_shop_files(folder, "demo", 100'000, true);
  const auto words = [](const std::string& out, const std::string& from) -> std::vector<std::string> {
    return {"first", "demo/thistledown.daybook", "--out", out, "--format", "csv,json,md", "--from", from};
  };
  ASSERT_EQ(run_pear(folder, words("old", "2022-01-01")).exit_code, 0);
  ASSERT_EQ(run_pear(folder, words("new", "2023-06-01")).exit_code, 0);
  const auto old_set = contents(folder / "old");
  const auto new_set = contents(folder / "new");
  ASSERT_NE(old_set, new_set);
  setenv("TMPDIR", scratch.path().c_str(), 1);
  int stopped = 0;
  for (int milliseconds = 4; milliseconds < 2'000; milliseconds += 4 + milliseconds / 4) {
    std::filesystem::remove_all(folder / "out");
    std::filesystem::copy(folder / "old", folder / "out");
    const pid_t question = start_pear(folder, words("out", "2023-06-01"));
    wait(milliseconds);
    kill(question, SIGTERM);
    const int code = exit_code_of(question);
    EXPECT_TRUE(code == 0 || code == 128 + SIGTERM) << code;
    stopped += code != 0 ? 1 : 0;
    const auto left = contents(folder / "out");
    EXPECT_EQ(left, code != 0 && left == old_set ? old_set : new_set) << milliseconds;
    EXPECT_EQ(scratch.list(), "");
  }
  unsetenv("TMPDIR");
  EXPECT_GT(stopped, 3);
}

TEST(Reliability, SeveralQuestionsInOneFolderAllHaveTheirEntries) {
  const TemporaryFolder folder;
  folder.write("sales.csv", many_lines("A", 2'000));
  ASSERT_EQ(run_pear(folder, {"import", "sales.csv", "--daybook", "s.daybook"}).exit_code, 0);
  const std::vector<std::string> questions = {"first", "frequency", "distinct", "concentration"};
  for (int round = 0; round < 5; ++round) {
    std::filesystem::remove_all(folder / "out");
    std::vector<pid_t> running;
    for (const std::string& question : questions)
      running.push_back(start_pear(folder, {question, "s.daybook", "--out", "out", "--figure", "none"}));
    for (const pid_t question : running) EXPECT_EQ(exit_code_of(question), 0);
    const std::string package = read_file(folder / "out/datapackage.json");
    for (const std::string& question : questions)
      EXPECT_NE(package.find(fmt::format("\"path\": \"{}.csv\"", question)), std::string::npos) << question;
  }
}

/// A folder with sales.csv and s.daybook.
class Careful : public testing::Test {
 protected:
  Careful() {
    folder_.write("sales.csv", kTwoLines);
    EXPECT_EQ(run_pear(folder_, {"import", "sales.csv", "--daybook", "s.daybook"}).exit_code, 0);
  }
  /// "exit code: message", and all files stay as they were.
  std::string refused(const std::vector<std::string>& words, const std::string& environment = "") {
    const auto before = contents_of_files();
    const ProgramRun run = run_pear(folder_, words, environment);
    EXPECT_EQ(contents_of_files(), before) << words.front();
    constexpr std::string_view kLead = "pear-thread: error: ";
    EXPECT_TRUE(run.err.starts_with(kLead)) << run.err;
    return fmt::format("{}: {}", run.exit_code,
                       run.err.substr(kLead.size(), run.err.size() - kLead.size() - 1));
  }
  std::map<std::string, std::string> contents_of_files() {
    std::map<std::string, std::string> all;
    for (const auto& entry : std::filesystem::directory_iterator(folder_.path()))
      if (entry.is_regular_file()) all[entry.path().filename().string()] = read_file(entry.path().string());
    return all;
  }
  const TemporaryFolder folder_;
};

TEST_F(Careful, NeverOverwritesAnInput) {
  const std::string reads = ": this command reads that file (s.daybook). Choose another name or folder.";
  EXPECT_EQ(refused({"export", "s.daybook", "--into", "s.daybook"}), "2: cannot write s.daybook" + reads);
  std::filesystem::create_symlink("s.daybook", folder_ / "link.csv");
  EXPECT_EQ(refused({"export", "s.daybook", "--into", "link.csv"}), "2: cannot write link.csv" + reads);
  EXPECT_EQ(refused({"export", "s.daybook", "--into", "sqlite:///s.daybook?table=lines"}),
            "2: cannot write s.daybook" + reads);
  EXPECT_EQ(refused({"export", "s.daybook", "--into", "/dev/null"}),
            "4: cannot write /dev/null: it is not a regular file.");
  EXPECT_EQ(refused({"export", "s.daybook", "--into", "a.csv", "--where", "quantity = 1", "--into", "./a.csv",
                     "--where", "quantity = 2"}),
            "2: --into a.csv and --into ./a.csv are the same file or table. Name a different one.");
  folder_.write("study.toml",
                "[study]\ntitle = \"T\"\ndaybook = \"s.daybook\"\nworkbook = \"s.daybook\"\n"
                "[[question]]\nask = \"frequency\"\n");
  EXPECT_NE(refused({"study", "study.toml"}).find("s.daybook: this command reads that file"),
            std::string::npos);
  std::filesystem::create_directory(folder_ / "report");
  std::filesystem::copy(folder_ / "sales.csv", folder_ / "report/import.csv");
  EXPECT_EQ(run_pear(folder_, {"import", "report/import.csv", "--daybook", "z.daybook", "--out", "report"})
                .exit_code,
            0);
  EXPECT_EQ(read_file(folder_ / "report/import.csv"), kTwoLines);
}

TEST_F(Careful, AnImportWithoutAReportReplacesNothing) {
  folder_.write("more.csv", kLineColumns + "A3,2024-02-01,C2,P2,2,3\n");
  folder_.write("a-file", "text");
  EXPECT_EQ(
      refused({"import", "more.csv", "--append", "--daybook", "s.daybook", "--out", "a-file"}).substr(0, 2),
      "4:");
  EXPECT_EQ(run_pear(folder_, {"import", "more.csv", "--append", "--daybook", "s.daybook"}).exit_code, 0);
  EXPECT_EQ(lines_of(folder_ / "s.daybook"), 3U);

  std::filesystem::create_directory(folder_ / "mine");
  EXPECT_EQ(refused({"import", "no-such.csv", "--daybook", "y.daybook", "--out", "mine"}).substr(0, 2), "4:");
  EXPECT_TRUE(std::filesystem::is_directory(folder_ / "mine")) << "it existed before";
}

TEST_F(Careful, AcceptsNamesInOtherEncodingsAndAColumnCalledPosition) {
  folder_.write(
      "gr\xF6\xDF"
      "e.csv",
      kTwoLines.substr(0, kLineColumns.size() - 1) +
          ",Position,s\xFC"
          "d\n" +
          "A1,2024-01-01,C1,P1,1,2,4,x\nA2,2024-02-01,C2,P2,2,3,5,y\n");
  EXPECT_EQ(run_pear(folder_, {"import",
                               "gr\xF6\xDF"
                               "e.csv",
                               "--daybook", "gr\xF6\xDF.daybook"})
                .exit_code,
            0);
  for (const char* question : {"frequency", "first"}) {
    const ProgramRun run = run_pear(folder_, {question, "gr\xF6\xDF.daybook", "--figure", "none"});
    EXPECT_EQ(run.exit_code, 0) << run.err;
  }
  const ProgramRun run =
      run_pear(folder_, {"crosstab", "gr\xF6\xDF.daybook", "--down", "position", "--figure", "none"});
  EXPECT_EQ(run.exit_code, 0) << run.err;
}

TEST_F(Careful, SaysWhatIsWrongWithTheSystem) {
  const ProgramRun no_scratch =
      run_pear(folder_, {"first", "s.daybook", "--out", "o"}, "TMPDIR=/nonexistent");
  EXPECT_EQ(no_scratch.exit_code, 0);
  EXPECT_NE(no_scratch.err.find("Check TMPDIR."), std::string::npos) << no_scratch.err;
  EXPECT_NE(refused({"first", "s.daybook", "--out", "o", "--figure", "none", "--format", "xlsx"},
                    "TMPDIR=/nonexistent")
                .find("4: no workbook was written"),
            std::string::npos);
  const std::string command =
      "cd '" + folder_.path() + "' && '" + program_path() + "' status s.daybook >/dev/full 2>err";
  EXPECT_EQ(WEXITSTATUS(std::system(command.c_str())), 4);
  EXPECT_EQ(read_file(folder_ / "err"),
            "pear-thread: error: cannot write to standard output: No space left on device.\n");
}

TEST_F(Careful, AcceptsLongOptionsAndOddPackages) {
  const std::string text(100'000, 'x');
  EXPECT_EQ(refused({"frequency", "s.daybook", "--where=" + text}).substr(0, 2), "2:");
  EXPECT_EQ(refused({"frequency", text}),
            "2: frequency does not understand a word of 100,000 characters: it is neither an option nor a "
            "path. See: "
            "pear-thread frequency --help");
  for (const std::string& package : std::vector<std::string>{
           R"({"resources": [], "trails": []})", "[]", "{}", "\xFF",
           R"({"resources": )" + std::string(100'000, '[') + std::string(100'000, ']') + "}"}) {
    folder_.write("o/datapackage.json", package);
    EXPECT_EQ(refused({"frequency", "s.daybook", "--out", "o", "--figure", "none"}),
              "3: o/datapackage.json is there but is not a Data Package. Move it, or write to another folder "
              "with --out.");
  }
  folder_.write("o/datapackage.json",
                R"({"resources": [{"trail": 1}, 7, {"path": "x.csv"}], "trails": {"a": 1}})");
  EXPECT_EQ(run_pear(folder_, {"frequency", "s.daybook", "--out", "o", "--figure", "none"}).exit_code, 0);
  folder_.write("study.toml",
                "[study]\ntitle = \"T\"\ndaybook = \"s.daybook\"\n[[question]]\nask = \"frequency\"\n");
  EXPECT_NE(run_pear(folder_, {"study", "study.toml", "--out", "p", "--against", "o"}).exit_code, 1);
  EXPECT_EQ(refused({"frequency", "s.daybook", "--name", "datapackage"}).substr(0, 2), "2:");
}

TEST_F(Careful, NamesOfTheDataAreShownAndWrittenSafely) {
  const std::string name =
      "A\x1B[31m\xC2\x9B"
      "31m\xE2\x80\xAE\xE2\x80\xA8\xEF\xBB\xBFZ";
  const std::string safe =
      "A\xEF\xBF\xBD[31m\xEF\xBF\xBD"
      "31m\xEF\xBF\xBD\xEF\xBF\xBD\xEF\xBF\xBDZ";
  folder_.write(
      "odd.csv",
      "order_id,order_date,customer_id,product_id,quantity,unit_price,region\nA1,2024-01-01,C1,P1,1,2," +
          name + "\nA2,2024-01-02,C1,P1,1,2,=1+1\nA3,2024-01-03,C1,P1,1,2,-3 cm\nA4,2024-01-04,C1,P1,1,2,\n" +
          "A5,2024-01-05,C1,P1,1,2,(empty)\n");
  ASSERT_EQ(run_pear(folder_, {"import", "odd.csv"}).exit_code, 0);
  const ProgramRun shown =
      run_pear(folder_, {"crosstab", "odd.daybook", "--down", "region", "--format", "csv,md"});
  EXPECT_NE(shown.out.find(safe), std::string::npos) << shown.out;
  EXPECT_EQ(shown.out.find(name), std::string::npos);
  EXPECT_EQ(read_file(folder_ / "pear-out/crosstab.md").find("\xE2\x80\xAE"), std::string::npos);
  const std::string csv = read_file(folder_ / "pear-out/crosstab.csv");
  EXPECT_NE(csv.find(name), std::string::npos) << "files contain the data unchanged";
  EXPECT_NE(csv.find("\n=1+1,"), std::string::npos);
  EXPECT_NE(csv.find("\n(empty),"), std::string::npos) << "no region";
  EXPECT_NE(csv.find("\n\"\"\"(empty)\"\"\","), std::string::npos) << "a region of that name";

  ASSERT_EQ(
      run_pear(folder_, {"crosstab", "odd.daybook", "--down", "region", "--formulas", "text"}).exit_code, 0);
  const std::string as_text = read_file(folder_ / "pear-out/crosstab.csv");
  EXPECT_NE(as_text.find("\n'=1+1,"), std::string::npos);
  EXPECT_NE(as_text.find("\n'-3 cm,"), std::string::npos);
  ASSERT_EQ(
      run_pear(folder_, {"export", "odd.daybook", "--into", "lines.csv", "--formulas", "text"}).exit_code, 0);
  EXPECT_NE(read_file(folder_ / "lines.csv").find(",'=1+1"), std::string::npos);
  EXPECT_EQ(refused({"frequency", "no\x1B[31mne"}),
            "4: cannot open no\xEF\xBF\xBD[31mne: there is no such file.");
}

TEST_F(Careful, SplitsByLongValues) {
  std::string csv = "order_id,order_date,customer_id,product_id,quantity,unit_price,region\n";
  for (const char* end : {"one", "two"})
    csv += "A" + std::string(end) + ",2024-01-01,C1,P1,1,2," + std::string(400, 'w') + end + "\n";
  folder_.write("long.csv", csv);
  ASSERT_EQ(run_pear(folder_, {"import", "long.csv"}).exit_code, 0);
  const ProgramRun run =
      run_pear(folder_, {"export", "long.daybook", "--split", "region", "--into", "r.csv"});
  EXPECT_EQ(run.exit_code, 0) << run.err;
  EXPECT_EQ(std::count(run.out.begin(), run.out.end(), '\n'), 3) << run.out;
}

}  // namespace
}  // namespace pear::test
