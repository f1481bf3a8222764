// The built program, used as a user would.
#include <filesystem>
#include <regex>

#include <gtest/gtest.h>
#include <nlohmann/json.hpp>
#include <sys/stat.h>
#include <unistd.h>

#include "cli/command.hpp"
#include "support/demo_program.hpp"
#include "support/made_up_shop.hpp"
#include "support/temporary_folder.hpp"

namespace pear::test {
namespace {

const std::string kSales =
    "order_id,order_date,customer_id,product_id,quantity,unit_price,region\n"
    "A1,2024-01-05,C9,P10,1,2.50,North\n"
    "A1,2024-01-05,C9,P9,2,4,North\n"
    "A2,2024-02-01,C10,P9,1,4,South\n"
    "A3,2024-02-20,C9,P9,1,4,North\n"
    "A4,2024-02-21,C9,P9,-1,4,North\n";

/// A folder with shop.daybook in it.
class Program : public testing::Test {
 protected:
  Program() {
    folder_.write("sales.csv", kSales);
    const ProgramRun run = run_pear(folder_, {"import", "sales.csv", "--daybook", "shop.daybook"});
    EXPECT_EQ(run.exit_code, 0) << run.err;
  }
  ProgramRun pear(const std::vector<std::string>& words, const std::string& environment = "") {
    return run_pear(folder_, words, environment);
  }
  /// "exit code: message on standard error", without the program's name.
  std::string fault(const std::vector<std::string>& words) {
    const ProgramRun run = pear(words);
    EXPECT_EQ(run.out, "");
    std::string said = run.err;
    const std::string lead = "pear-thread: error: ";
    EXPECT_TRUE(said.starts_with(lead)) << said;
    return std::to_string(run.exit_code) + ": " + said.substr(lead.size(), said.size() - lead.size() - 1);
  }
  const TemporaryFolder folder_;
};

TEST_F(Program, ValuesMayFollowAnEqualsSign) {
  const std::string separate = pear({"crosstab", "--down", "region", "--count", "lines", "--where",
                                     "region = 'North'", "--figure", "none"})
                                   .out;
  EXPECT_NE(separate.find("  North       4\n"), std::string::npos) << separate;
  EXPECT_EQ(
      pear({"crosstab", "--down=region", "--count=lines", "--where=region = 'North'", "--figure=none"}).out,
      separate);
  EXPECT_EQ(
      pear({"crosstab", "--down=region", "--count", "lines", "--where", "region = 'North'", "--figure=none"})
          .out,
      separate);
}

TEST_F(Program, ImportsAndReportsEveryRow) {
  folder_.write("messy.csv", kSales + "A5,2024-13-01,C9,P9,1,4,North\n");
  const ProgramRun run = pear({"import", "messy.csv", "--accept-rejects"});
  EXPECT_EQ(run.exit_code, 0);
  const std::string report = std::filesystem::relative(last_report(folder_ / "messy-import"), folder_ / "");
  EXPECT_EQ(
      std::regex_replace(run.out, std::regex(report), "RUN"),
      "Left out: 1 row of the lines (16.7%), amount 4.00; most frequent: order_date \"2024-13-01\" is a day\n"
      "that does not exist (messy.csv, line 7).\n"
      "5 of 6 rows read from messy.csv became lines of the daybook; 1 row was rejected.\n\nPopulation  "
      "2 customers, 3 orders, 5 lines (1 return), amount 14.50, 2024-01-05 to 2024-02-21\nSelection   "
      "all rows of messy.csv\n\nRows\n  table  source     read  kept  duplicate  excluded  rejected\n  lines "
      " "
      "messy.csv     6     5          0         0         1\n\nAmounts of the lines\n  source      read   "
      "kept  "
      "duplicate  excluded  rejected\n  messy.csv  18.50  14.50       0.00      0.00      4.00\n\nWhy rows "
      "were rejected\n "
      " table  column      first_value  reason                        rows  first_line  first_source\n  "
      "lines  "
      "order_date  2024-13-01   is a day that does not exist     1           7  messy.csv\n\n4 checks "
      "passed: of "
      "every source, rows read = kept + duplicate + excluded + rejected; the same for\nthe amounts of lines; "
      "the "
      "daybook contains all lines kept; the daybook's amounts add up to the\namounts kept.\nWritten     "
      "messy.daybook, RUN/import.md, 15 further files in\n            RUN\n");
  EXPECT_EQ(
      read_file(last_report(folder_ / "messy-import") + "/import-rejected.csv"),
      "source,line,column,value,reason,row\n"
      "messy.csv,7,order_date,2024-13-01,is a day that does not exist,\"A5,2024-13-01,C9,P9,1,4,North\"\n");
}

TEST_F(Program, AnswersFirstAndFrequency) {
  const ProgramRun first = pear({"first", "--figure", "none", "--run-in", "0"});
  EXPECT_EQ(first.exit_code, 0) << first.err;
  EXPECT_TRUE(first.out.starts_with(
      "2 new customers; 1 of them (50.0%) ordered again, half of these within 46 days.\n"))
      << first.out;
  EXPECT_EQ(read_file(folder_ / "pear-out/first.csv"),
            "customer_id,first_date,first_order_id,first_products,first_size,first_amount,second_date,days_"
            "to_second,"
            "orders,amount,is_new\n"
            "C9,2024-01-05,A1,P9 + P10,2,10.50,2024-02-20,46,2,10.50,yes\n"
            "C10,2024-02-01,A2,P9,1,4.00,,,1,4.00,yes\n");
  EXPECT_EQ(pear({"first", "--figure", "none", "--returns", "ignore", "--name", "gross"}).exit_code, 0);
  EXPECT_NE(read_file(folder_ / "pear-out/gross.csv").find("46,2,14.50,no\n"), std::string::npos);
  EXPECT_EQ(pear({"frequency", "shop.daybook", "--within", "30", "--out", "o"}).exit_code, 0);
  EXPECT_EQ(read_file(folder_ / "o/frequency.csv"),
            "orders,customers,share,cumulative_share\n1,1,1.000000,1.000000\n");
  EXPECT_GT(read_file(folder_ / "o/frequency.png").size(), 1000U);
  EXPECT_GT(read_file(folder_ / "o/frequency.svg").size(), 1000U);
}

TEST_F(Program, WritesTheSameBytesForAnyNumberOfThreads) {
  EXPECT_EQ(pear({"demo", "d1", "--lines", "4000", "--threads", "1"}).exit_code, 0);
  EXPECT_EQ(pear({"demo", "d2", "--lines", "4000", "--threads", "2"}).exit_code, 0);
  std::size_t files = 0;
  for (const auto& entry : std::filesystem::recursive_directory_iterator(folder_ / "d1")) {
    if (!entry.is_regular_file()) continue;
    const std::string file = std::filesystem::relative(entry.path(), folder_ / "d1");
    if (file.starts_with("thistledown")) continue;  // daybook and report contain the folder's path
    EXPECT_TRUE(read_file(folder_ / "d1/" + file) == read_file(folder_ / "d2/" + file)) << file;
    ++files;
  }
  EXPECT_GT(files, 80U) << "tables, figures, report and workbook among them";
  EXPECT_EQ(pear({"import", "d1/shop.toml", "--daybook", "one.daybook", "--threads", "1"}).exit_code, 0);
  EXPECT_EQ(pear({"import", "d1/shop.toml", "--daybook", "two.daybook", "--threads", "2"}).exit_code, 0);
  EXPECT_TRUE(read_file(folder_ / "one.daybook") == read_file(folder_ / "two.daybook"));
  EXPECT_TRUE(read_file(last_report(folder_ / "one-import") + "/import-changed.csv") ==
              read_file(last_report(folder_ / "two-import") + "/import-changed.csv"));
}

TEST_F(Program, DemoGeneratesAShopOfTheGivenSize) {
  EXPECT_EQ(pear({"demo", "--lines", "300"}).exit_code, 0);
  EXPECT_TRUE(std::filesystem::exists(folder_ / "demo-shop/order-lines.csv"));
  folder_.write("flat/.sales.csv.AbCdEf.unfinished", "left by a demo that was killed");
  const ProgramRun flat = pear({"demo", "flat", "--flat", "--lines", "100"});
  EXPECT_EQ(flat.exit_code, 0) << flat.err;
  EXPECT_FALSE(std::filesystem::exists(folder_ / "flat/.sales.csv.AbCdEf.unfinished"));
  const std::string sales = read_file(folder_ / "flat/sales.csv");
  EXPECT_EQ(std::count(sales.begin(), sales.end(), '\n'), 101);
  EXPECT_EQ(pear({"demo", "demo-shop", "--lines", "100"}).exit_code, 0) << "an earlier demo may be replaced";
  EXPECT_EQ(fault({"demo", "."}).find("2: . contains something else ("), 0U);
  EXPECT_EQ(fault({"demo", "sales.csv"}), "2: sales.csv is a file. Name a folder for the demo.");
}

class DemoShop : public DemoProgram<DemoShop> {};

TEST_F(DemoShop, HasSixteenThousandLinesAndSomeMore) {
  const std::string lines = read_file(path("d/order-lines.csv"));
  EXPECT_EQ(std::count(lines.begin(), lines.end(), '\n'), 16'054);
}

TEST_F(Program, StatusShowsTheContentsOfTheDaybook) {
  const ProgramRun run = pear({"status", "--verify"});
  EXPECT_EQ(run.exit_code, 0) << run.err;
  for (const char* part :
       {"2 customers, 3 orders, 5 lines (1 return), 2024-01-05 to 2024-02-21; 2 products\n",
        "Source      sales.csv (lines): 5 rows, 5 kept, 0 rejected\n",
        "Customers   customer_id, region (text)\n", "verified"})
    EXPECT_NE(run.out.find(part), std::string::npos) << run.out;
}

TEST_F(Program, HelpIsOnStandardOutputAndNamesEveryOption) {
  const ProgramRun general = pear({"--help"});
  EXPECT_EQ(general.exit_code, 0);
  for (const cli::Command& command : cli::commands()) {
    EXPECT_NE(general.out.find("  " + command.name + " "), std::string::npos);
    const ProgramRun help = pear({command.name, "--help"});
    EXPECT_EQ(help.exit_code, 0);
    EXPECT_EQ(help.err, "");
    for (const analysis::OptionInfo& option : command.options)
      EXPECT_NE(help.out.find("--" + option.name), std::string::npos);
    EXPECT_EQ(pear({"help", command.name}).out, help.out);
  }
  EXPECT_EQ(pear({"--version"}).out, "pear-thread 0.1.0\n");
}

TEST_F(Program, WrongUsageIsExplained) {
  EXPECT_EQ(
      fault({"frequenzy"}),
      "2: there is no command \"frequenzy\". Did you mean \"frequency\"? All commands: pear-thread --help");
  EXPECT_EQ(fault({"frequency", "--whitin", "90"}),
            "2: frequency has no option --whitin. Did you mean \"--within\"? All its options: pear-thread "
            "frequency --help");
  EXPECT_EQ(fault({"frequency", "--within", "0"}),
            "2: --within takes a length of time from 1 to 36,500 days, such as 90, \"90 days\" or \"3 "
            "months\", not \"0\".");
  EXPECT_EQ(fault({"frequency", "--within"}),
            "2: \"--within\" needs a value. See: pear-thread frequency --help");
  EXPECT_EQ(fault({"offers", "--test", "--out", "plan"}),
            "2: \"--test\" needs a value. See: pear-thread offers --help");
  EXPECT_EQ(fault({"frequency", "--within", "9", "--within", "8"}), "2: --within is given twice.");
  EXPECT_EQ(
      fault({"frequency", "a.daybook", "b.daybook"}),
      "2: frequency does not understand \"b.daybook\". Usage: pear-thread frequency [DAYBOOK] [OPTIONS]");
  EXPECT_EQ(fault({"first", "--figure", "pdf"}), "2: --figure takes svg, png or none, not \"pdf\".");
  EXPECT_EQ(fault({"first", "--name", "a/b"}),
            "2: --name needs the name of a file without a folder, not \"a/b\".");
  EXPECT_EQ(fault({"first", "--threads", "0"}),
            "2: --threads takes a whole number from 1 to 1,024, not \"0\".");
  EXPECT_EQ(
      fault({"import"}),
      "2: import needs an intake file or a file of sales lines. Usage: pear-thread import INTAKE [OPTIONS]");
  EXPECT_EQ(fault({"import", "-"}), "2: import from standard input needs --daybook NAME.daybook.");
  EXPECT_EQ(fault({"import", "sales.csv", "--daybook", "sales.csv"}),
            "2: --daybook sales.csv: the name of a daybook ends in .daybook.");
  EXPECT_EQ(folder_.list(), "sales.csv shop-import shop.daybook");
  EXPECT_EQ(pear({}).exit_code, 2);
}

TEST_F(Program, TheDaybookIsOptionalIfThereIsOnlyOne) {
  folder_.write("other.daybook", "");
  EXPECT_EQ(fault({"status"}),
            "2: this folder contains 2 daybooks (other.daybook, shop.daybook). Name the one to use.");
  EXPECT_EQ(fault({"status", "none.daybook"}), "4: cannot open none.daybook: there is no such file.");
  const TemporaryFolder empty;
  EXPECT_EQ(run_pear(empty, {"first"}).err,
            "pear-thread: error: this folder contains no daybook. Name one, or create one with pear-thread "
            "import.\n");
}

TEST_F(Program, BadFilesAreRejectedAndTheOldDaybookRemains) {
  const std::string before = read_file(folder_ / "shop.daybook");
  folder_.write("empty.csv", "");
  folder_.write("header.csv", kSales.substr(0, kSales.find('\n') + 1));
  folder_.write("roles.csv",
                "Order No,order_date,customer_id,product_id,quantity,unit_price\nA1,2024-01-01,C1,P1,1,1\n");
  const auto import = [&](const std::string& file) {
    return fault({"import", file, "--daybook", "shop.daybook", "--replace"});
  };
  EXPECT_EQ(import("none.csv"), "4: cannot open none.csv: No such file or directory");
  EXPECT_EQ(import("empty.csv"), "3: empty.csv is empty: it has no header and no rows.");
  EXPECT_EQ(import("header.csv"), "3: header.csv has a header and no rows.");
  EXPECT_EQ(import("roles.csv"),
            "3: roles.csv: no column was recognised as order_id. Its columns are \"Order No\", "
            "\"order_date\", \"customer_id\", \"product_id\", \"quantity\", \"unit_price\". Name them, for "
            "example --map order_id=\"Order No\"; or run pear-thread inspect roles.csv --write intake.toml "
            "to write an intake file.");
  EXPECT_EQ(read_file(folder_ / "shop.daybook"), before);
  folder_.write("notes.daybook", "my notes");
  EXPECT_EQ(fault({"import", "sales.csv", "--daybook", "notes.daybook"}),
            "2: notes.daybook exists and is not a daybook, so it is not overwritten. Choose another name.");
  EXPECT_EQ(read_file(folder_ / "notes.daybook"), "my notes");
  EXPECT_EQ(fault({"first", "notes.daybook"}),
            "3: notes.daybook is not a daybook. A daybook is made by pear-thread import.");
}

TEST_F(Program, AnUnwritableFolderIsAnErrorAndLeavesNoFiles) {
  folder_.write("file", "");
  EXPECT_EQ(fault({"import", "sales.csv", "--daybook", "no/shop.daybook"}),
            "4: cannot write no/shop.daybook: No such file or directory.");
  EXPECT_EQ(fault({"first", "shop.daybook", "--out", "file"}).substr(0, 31),
            "4: cannot create the folder fil");
  if (geteuid() == 0) return;  // root may write anywhere
  std::filesystem::create_directory(folder_ / "locked");
  chmod((folder_ / "locked").c_str(), 0500);
  EXPECT_EQ(fault({"first", "shop.daybook", "--out", "locked"}).substr(0, 2), "4:");
}

TEST_F(Program, WithoutGnuplotTablesAreWrittenWithAWarning) {
  const ProgramRun run = pear({"frequency"}, "PATH=/nowhere");
  EXPECT_EQ(run.exit_code, 0);
  EXPECT_EQ(run.err,
            "pear-thread: warning: no figure was drawn: gnuplot is not installed. Install it (Debian: apt "
            "install gnuplot-nox fonts-lato), or use --figure none.\n");
  EXPECT_TRUE(std::filesystem::exists(folder_ / "pear-out/frequency.csv"));
  EXPECT_FALSE(std::filesystem::exists(folder_ / "pear-out/frequency.svg"));
}

TEST_F(Program, QuietPrintsNothingAndVerbosePrintsTimes) {
  const ProgramRun quiet = pear({"first", "--quiet", "--figure", "none"});
  EXPECT_EQ(quiet.out + quiet.err, "");
  EXPECT_NE(pear({"first", "--verbose", "--figure", "none"}).err.find("debug: question answered in "),
            std::string::npos);
}

TEST_F(Program, CompressedAndRenamedExportsAreReadAlike) {
  ASSERT_EQ(std::system(("cd '" + folder_.path() + "' && gzip -k sales.csv && zstd -q sales.csv").c_str()),
            0);
  for (const char* file : {"sales.csv.gz", "sales.csv.zst"}) {
    EXPECT_EQ(pear({"import", file}).exit_code, 0);
    const auto fingerprint = [&](const std::string& daybook) {
      const std::string out = pear({"status", daybook}).out;
      return out.substr(out.find("Fingerprint"), 44);
    };
    EXPECT_EQ(fingerprint("sales.daybook"), fingerprint("shop.daybook"));
  }
}

/// Inputs that once broke an import, or might: each kept as a file, with the expected outcome.
struct BadInput {
  const char* file;
  int exit_code;
  const char* said;      ///< in the message, or in the report if the import continues
  const char* rejected;  ///< in the list of rejected rows
};

void PrintTo(const BadInput& input, std::ostream* out) { *out << input.file; }

class BadInputs : public testing::TestWithParam<BadInput> {};

TEST_P(BadInputs, AreReportedOrRejected) {
  const TemporaryFolder folder;
  const BadInput& input = GetParam();
  std::filesystem::copy(std::string(PEAR_BAD_INPUT) + "/" + input.file, folder / input.file);
  const ProgramRun run =
      run_pear(folder, {"import", input.file, "--daybook", "bad.daybook", "--accept-rejects"});
  EXPECT_EQ(run.exit_code, input.exit_code) << run.err;
  EXPECT_NE((run.out + run.err).find(input.said), std::string::npos) << run.out << run.err;
  EXPECT_EQ(std::filesystem::exists(folder / "bad.daybook"), input.exit_code == 0);
  const std::string rejected = last_report(folder / "bad-import") + "/import-rejected.csv";
  const bool any_rejected = std::filesystem::exists(rejected);
  EXPECT_EQ(any_rejected, input.exit_code == 0);
  if (any_rejected) {
    EXPECT_NE(read_file(rejected).find(input.rejected), std::string::npos);
  }
  if (input.exit_code == 0) {
    EXPECT_EQ(run_pear(folder, {"status", "bad.daybook", "--verify"}).exit_code, 0);
  }
}

INSTANTIATE_TEST_SUITE_P(
    Files, BadInputs,
    testing::Values(
        BadInput{"empty.csv", 3, "empty.csv is empty: it has no header and no rows.", ""},
        BadInput{"header-only.csv", 3, "header-only.csv has a header and no rows.", ""},
        BadInput{"ends-mid-row.csv", 0, "1 of 2 rows read", ",3,,,has 4 fields where the header has 6,"},
        BadInput{"open-quote.csv", 0, "1 of 2 rows read", ",3,,,has a quoted field that never ends,"},
        BadInput{"nul-byte.csv", 0, "1 of 1 row read", ""}, BadInput{"utf-16.csv", 0, "Read as UTF-16.", ""},
        BadInput{"decimal-comma.csv", 3, "Most frequent: \"unit_price\" is not a number (first on line 2).",
                 ""},
        BadInput{"latin-1.csv", 0, "Read as Windows-1252.", ""},
        BadInput{"line-break-in-field.csv", 0, "1 of 1 row read", ""},
        BadInput{"double-header.csv", 3, "no column was recognised as customer_id.", ""},
        BadInput{"too-large.csv", 0, "1 of 2 rows read",
                 ",2,quantity,922337203685477,times unit_price is too large,"},
        BadInput{"spreadsheet.csv", 3, "the compressed data of spreadsheet.csv is damaged", ""}));

/// Help, manual and completion read one declaration: everything that a command accepts appears in all three.
TEST_F(Program, HelpManualAndCompletionListAllCommandsAndOptions) {
  const std::string manual = pear({"--manual"}).out;
  std::istringstream names(pear({"--complete", ""}).out);
  std::size_t commands = 0;
  for (std::string command; std::getline(names, command); ++commands) {
    EXPECT_NE(manual.find(".SH " + command + "\n"), std::string::npos) << command;
    const std::string help = pear({command, "--help"}).out;
    std::istringstream options(pear({"--complete", command, "--"}).out);
    for (std::string option; std::getline(options, option);) {
      EXPECT_NE(help.find("  " + option), std::string::npos) << command << " " << option;
      std::string escaped;
      for (const char c : option) escaped += c == '-' ? std::string("\\-") : std::string(1, c);
      EXPECT_NE(manual.find("\\fB" + escaped + "\\fR"), std::string::npos) << command << " " << option;
    }
  }
  EXPECT_GE(commands, 18U);
}

TEST_F(Program, CompletesColumnsOfTheDaybookAndWordsOfOptions) {
  make_shop_files(folder_, "d", 500);
  EXPECT_EQ(pear({"--complete", "crosstab", "--down", "reg"}).out, "region\n");
  EXPECT_EQ(pear({"--complete", "crosstab", "d/thistledown.daybook", "--down", "region,ye"}).out,
            "region,year\n");
  EXPECT_EQ(pear({"--complete", "sequence", "--repeats", ""}).out, "first\nall\nonly\n");
  EXPECT_EQ(pear({"--complete", "nonsense", "--"}).out, "");
  EXPECT_EQ(pear({"--complete", "import", "--daybook", ""}).out, "") << "the shell offers files";
}

}  // namespace
}  // namespace pear::test
