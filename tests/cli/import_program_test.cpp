// import, inspect and export as a user runs them.
#include <gtest/gtest.h>

#include "support/csv_rows.hpp"
#include "support/import_reports.hpp"
#include "support/made_up_shop.hpp"
#include "support/results.hpp"
#include "support/sql_opinion.hpp"
#include "support/temporary_folder.hpp"

namespace pear::test {
namespace {

const std::string kHeader = "order_id,order_date,customer_id,product_id,quantity,unit_price,region\n";
const std::string kJanuary = kHeader + "A1,2024-01-05,C9,P10,1,2.50,North\nA2,2024-01-06,C10,P9,2,4,South\n";

class ImportProgram : public testing::Test {
 protected:
  ProgramRun pear(const std::vector<std::string>& words) { return run_pear(folder_, words); }
  std::string fault(const std::vector<std::string>& words) {
    const ProgramRun run = pear(words);
    const std::string lead = "pear-thread: error: ";
    EXPECT_TRUE(run.err.starts_with(lead)) << run.err;
    return std::to_string(run.exit_code) + ": " +
           run.err.substr(lead.size(), run.err.size() - lead.size() - 1);
  }
  const TemporaryFolder folder_;
};

TEST_F(ImportProgram, AppendAddsNewLinesAndRefusesAFileTwice) {
  folder_.write("january.csv", kJanuary);
  folder_.write("february.csv", kHeader + "A2,2024-01-06,C10,P9,2,4,South\nA3,2024-02-01,C9,P9,1,4,East\n");
  ASSERT_EQ(pear({"import", "january.csv", "--daybook", "shop.daybook"}).exit_code, 0);
  const ProgramRun run = pear({"import", "february.csv", "--daybook", "shop.daybook", "--append"});
  EXPECT_EQ(run.exit_code, 0) << run.err;
  EXPECT_NE(run.out.find("1 line was added to shop.daybook, which now has 3 lines."), std::string::npos)
      << run.out;
  EXPECT_NE(run.out.find("1 line of the new sources was in the daybook already and was left out."),
            std::string::npos)
      << run.out;
  const std::string status = pear({"status", "--verify"}).out;
  EXPECT_NE(status.find("2 customers, 3 orders, 3 lines"), std::string::npos) << status;
  EXPECT_NE(status.find("january.csv"), std::string::npos);
  EXPECT_EQ(fault({"import", "february.csv", "--daybook", "shop.daybook", "--append"}),
            "3: nothing to append: february.csv is in shop.daybook already, byte for byte.");
  EXPECT_EQ(fault({"import", "february.csv", "--daybook", "none.daybook", "--append"}).substr(0, 27),
            "4: cannot open none.daybook");
}

TEST_F(ImportProgram, UndoIsRefusedUnlessTheDaybookIsThatOfTheLastImport) {
  folder_.write("january.csv", kJanuary);
  folder_.write("february.csv", kHeader + "A3,2024-02-01,C9,P9,1,4,East\n");
  ASSERT_EQ(pear({"import", "january.csv", "--daybook", "shop.daybook"}).exit_code, 0);
  const std::string january = read_file(folder_ / "shop.daybook");
  EXPECT_TRUE(
      fault({"import", "--undo"}).starts_with("3: the last import into shop.daybook cannot be undone"));
  ASSERT_EQ(pear({"import", "february.csv", "--daybook", "shop.daybook", "--append"}).exit_code, 0);
  const std::string both = read_file(folder_ / "shop.daybook");
  folder_.write("shop.daybook", january);  // someone put another daybook in its place
  EXPECT_NE(fault({"import", "--undo"}).find("is not as its last import"), std::string::npos);
  folder_.write("shop.daybook", both);
  EXPECT_EQ(pear({"import", "--undo", "--daybook", "shop.daybook"}).exit_code, 0);
  EXPECT_TRUE(read_file(folder_ / "shop.daybook") == january);
  EXPECT_EQ(pear({"import", "february.csv", "--daybook", "shop.daybook", "--append"}).exit_code, 0);
  EXPECT_TRUE(read_file(folder_ / "shop.daybook") == both);
}

/// Sorted on disk, the demo's exports give the same daybook, byte for byte, and no scratch files stay.
TEST_F(ImportProgram, SortsOnDiskWithinAnAmountOfMemory) {
  const std::string intake = std::string(PEAR_TEST_SHOP) + "/shop.toml";
  ASSERT_EQ(pear({"import", intake, "--daybook", "whole.daybook"}).exit_code, 0);
  const TemporaryFolder scratch;
  const ProgramRun run =
      run_pear(folder_, {"import", intake, "--daybook", "parts.daybook", "--memory", "200 MB"},
               "TMPDIR=" + scratch.path());
  ASSERT_EQ(run.exit_code, 0) << run.err;
  EXPECT_TRUE(read_file(folder_ / "parts.daybook") == read_file(folder_ / "whole.daybook"));
  EXPECT_EQ(scratch.list(), "");
  const std::string whole = last_report(folder_ / "whole-import"),
                    parts = last_report(folder_ / "parts-import");
  for (const char* file : {"import.csv", "import-joins.csv", "import-duplicates.csv", "import-unmatched.csv",
                           "import-reasons.csv", "import-cleaning.csv", "import-shared-names.csv"})
    EXPECT_EQ(read_file(parts + "/" + file), read_file(whole + "/" + file)) << file;
}

TEST_F(ImportProgram, RejectsAmountsOfMemoryThatItCannotKeep) {
  folder_.write("sales.csv", kJanuary);
  EXPECT_EQ(fault({"import", "sales.csv", "--memory", "2"}),
            "2: --memory 2: give an amount of memory with its unit, as 500MB or 2GB.");
  EXPECT_EQ(fault({"import", "sales.csv", "--memory", "50MB"}), "2: --memory 50MB: the least is 200 MB.");
  EXPECT_EQ(fault({"import", "sales.csv", "--memory", "2GB", "--append"}),
            "2: --memory and --append exclude each other: the latter needs all lines in memory.");
  folder_.write("shop.toml", "[lines]\nfile = \"sales.csv\"\n[[duplicates]]\nsame = [\"product_id\"]\n");
  EXPECT_EQ(
      fault({"import", "shop.toml", "--memory", "2GB"}),
      "2: --memory sorts the orders part by part, and [[duplicates]] in lines without order_id in `same` "
      "needs all of them at once. Import without --memory.");
}

/// An import that fails leaves neither a report nor an empty folder.
TEST_F(ImportProgram, AFailedRunLeavesNoFolder) {
  folder_.write("bad.csv", kHeader + "A1,yesterday,C9,P10,1,2.50,North\n");
  EXPECT_EQ(pear({"import", "bad.csv", "--daybook", "shop.daybook"}).exit_code, 3);
  EXPECT_EQ(folder_.list(), "bad.csv");
}

TEST_F(ImportProgram, ExportWritesColumnsOfTheHistoryOnRequest) {
  folder_.write("s.csv", kHeader + "A1,2024-01-05,C1,P1,1,2,North\nA2,2024-01-09,C1,P1,1,2,North\n");
  ASSERT_EQ(pear({"import", "s.csv"}).exit_code, 0);
  ASSERT_EQ(pear({"export", "--into", "plain.csv", "--where", "order_number = 2"}).exit_code, 0);
  EXPECT_EQ(read_file(folder_ / "plain.csv").find("order_number"), std::string::npos);
  EXPECT_EQ(rows_of(folder_ / "plain.csv").at(0).at("order_id"), "A2");
  ASSERT_EQ(
      pear({"export", "--into", "h.csv", "--with", "order_number,days_since_last_purchase,customer_orders"})
          .exit_code,
      0);
  const auto second = rows_of(folder_ / "h.csv").at(1);
  EXPECT_EQ(second.at("order_number") + " " + second.at("days_since_last_purchase") + " " +
                second.at("customer_orders"),
            "2 4 2");
  EXPECT_EQ(fault({"export", "--into", "x.csv", "--with", "order_numbr"}),
            "2: --with: there is no column \"order_numbr\". Did you mean \"order_number\"?");
}

TEST_F(ImportProgram, AnExportIsImportedAsItWas) {
  folder_.write("s.csv",
                "order_id,order_date,customer_id,product_id,quantity,unit_price,kind,year made\n"
                "A1,2024-01-05 10:30,C1,P1,1,2.50,,1999\nA2,2024-01-06 11:00:05,C1,P1,1,0,credit,\n"
                "A3,2024-01-07,C2,P2,1,2,freight,\n");
  folder_.write("s.toml",
                "[lines]\nfile = \"s.csv\"\n[returns]\ncondition = \"kind = 'credit'\"\n"
                "[fees]\ncondition = \"kind = 'freight'\"\n");
  ASSERT_EQ(pear({"import", "s.toml"}).exit_code, 0);
  ASSERT_EQ(pear({"export", "s.daybook", "--into", "e.csv"}).exit_code, 0);
  const ProgramRun run = pear({"import", "e.csv", "--daybook", "f.daybook"});
  ASSERT_EQ(run.exit_code, 0) << run.err;
  EXPECT_NE(
      run.out.find("An export of a daybook: year, quarter, month, month_of_year, week, weekday, hour are"),
      std::string::npos)
      << run.out;
  ASSERT_EQ(pear({"export", "f.daybook", "--into", "g.csv"}).exit_code, 0);
  const std::string exported = read_file(folder_ / "e.csv");
  EXPECT_EQ(read_file(folder_ / "g.csv"), exported);
  EXPECT_NE(exported.find("A2,2024-01-06,C1,P1,11:00:05,true,false,-1,0,0,credit,"), std::string::npos);
  EXPECT_NE(exported.find("A3,2024-01-07,C2,P2,,false,true,1,2,2,freight,"), std::string::npos);
  std::string broken = exported;
  broken.replace(broken.find("10:30"), 5, "25:30");
  folder_.write("broken.csv", broken);
  EXPECT_EQ(fault({"import", "broken.csv"}),
            "3: broken.csv, line 2, column order_time: \"25:30\" is not a time of day, as 10:30:05.");
}

/// Lists are exported with other lines, before or after them, or not at all.
TEST_F(ImportProgram, AppendKnowsMembersOfEarlierAndLaterLists) {
  const auto import = [&](const std::string& month, const std::string& lines, const std::string& products) {
    const std::string header = "order_id,order_date,customer_id,product_id,quantity,unit_price\n";
    folder_.write(month + ".csv", header + lines);
    std::string plan = "[lines]\nfile = \"" + month + ".csv\"\n";
    if (!products.empty()) {
      folder_.write(month + "-products.csv",
                    "product_id,product_name,drawer,list_price,unit_cost\n" + products);
      plan += "[products]\nfile = \"" + month + "-products.csv\"\n";
    }
    folder_.write(month + ".toml", plan);
    const ProgramRun run = pear({"import", month + ".toml", "--daybook", "shop.daybook",
                                 month == "january" ? "--replace" : "--append"});
    ASSERT_EQ(run.exit_code, 0) << run.err;
    ASSERT_EQ(pear({"status", "--verify"}).exit_code, 0);
  };
  const auto products = [&] {
    EXPECT_EQ(pear({"export", "shop.daybook", "--into", "lines.csv"}).exit_code, 0);
    Cells cells;
    for (auto& row : rows_of(folder_ / "lines.csv"))
      cells.push_back(
          {row["product_id"], row["product_name"], row["drawer"], row["list_price"], row["unit_cost"]});
    return sorted(cells);
  };
  import("january", "A1,2024-01-05,C9,P1,1,2.50\n",
         "P1,Apple,A,3,1\nP2,Pear,B,2.50,1.1\nP3,Plum,C,,\nP4,Quince,D,4,2\n");
  import("february", "A2,2024-02-01,C9,P2,1,2.50\n", "");
  const Cells by_february = {{"P1", "Apple", "A", "3", "1"}, {"P2", "Pear", "B", "2.5", "1.1"}};
  EXPECT_EQ(products(), by_february);
  import("march", "A3,2024-03-01,C9,P3,1,2.50\n", "P1,Apple red,,3.5,\nP3,Plum,C,1,0.5\nP4,Quince new,,,\n");
  import("april", "A4,2024-04-01,C9,P4,1,2.50\nA5,2024-04-01,C9,P5,1,2.50\n", "");
  const Cells by_april = {{"P1", "Apple red", "A", "3.5", "1"},
                          {"P2", "Pear", "B", "2.5", "1.1"},
                          {"P3", "Plum", "C", "1", "0.5"},
                          {"P4", "Quince new", "D", "4", "2"},
                          {"P5", "", "", "", ""}};
  EXPECT_EQ(products(), by_april);
}

/// A plain import over a daybook with lines of other sources would lose them.
TEST_F(ImportProgram, LosesNoLinesOfOtherSources) {
  folder_.write("january.csv", kJanuary);
  folder_.write("february.csv", kHeader + "A3,2024-02-01,C9,P9,1,4,East\n");
  ASSERT_EQ(pear({"import", "january.csv", "--daybook", "shop.daybook"}).exit_code, 0);
  ASSERT_EQ(pear({"import", "february.csv", "--daybook", "shop.daybook", "--append"}).exit_code, 0);
  EXPECT_EQ(
      fault({"import", "january.csv", "--daybook", "shop.daybook"}),
      "2: shop.daybook contains 1 line from february.csv, which this import does not read. Add to it with "
      "--append, or replace it with --replace.");
  EXPECT_EQ(fault({"import", "january.csv", "--daybook", "shop.daybook", "--append", "--replace"}),
            "2: --append and --replace exclude each other.");
  EXPECT_NE(pear({"status"}).out.find("3 orders, 3 lines"), std::string::npos);
  EXPECT_EQ(pear({"import", "january.csv", "--daybook", "shop.daybook", "--replace"}).exit_code, 0);
  EXPECT_EQ(pear({"import", "january.csv", "--daybook", "shop.daybook"}).exit_code,
            0);  // the same source again
}

TEST_F(ImportProgram, StrictAndDryRunWriteNothing) {
  folder_.write("messy.csv", kJanuary + "A5,2024-13-01,C9,P9,1,4,North\n");
  EXPECT_EQ(fault({"import", "messy.csv", "--strict"}),
            "3: 1 row was rejected, and --strict allows none; nothing was written. First: messy.csv, line 4: "
            "order_date "
            "\"2024-13-01\" is a day that does not exist.");
  EXPECT_EQ(folder_.list(), "messy.csv");
  EXPECT_EQ(
      fault({"import", "messy.csv"}),
      "3: 1 of 3 rows of messy.csv would be rejected (33.3%); nothing was written. Most frequent: order_date "
      "\"2024-13-01\" is a day that does not exist (messy.csv, line 4). Check the intake file with "
      "pear-thread inspect, or "
      "accept this with pear-thread import --accept-rejects.");
  EXPECT_EQ(folder_.list(), "messy.csv");
  const ProgramRun dry = pear({"import", "messy.csv", "--dry-run"});
  EXPECT_EQ(dry.exit_code, 0);
  EXPECT_NE(dry.out.find("A dry run: nothing was written."), std::string::npos);
  EXPECT_EQ(folder_.list(), "messy.csv");
}

TEST_F(ImportProgram, SaysWhichOrdersAreInTheFuture) {
  folder_.write("lines.csv", kJanuary + "A9,2924-01-05,C9,P10,1,2.50,North\n");
  const ProgramRun run = pear({"import", "lines.csv"});
  EXPECT_TRUE(run.out.starts_with(
      "1 order is in the future, the last one on 2924-01-05. Check date_format and the dates."))
      << run.out;
}

TEST_F(ImportProgram, RowsThatARuleLeavesOutAreNotTooMany) {
  folder_.write("lines.csv", kJanuary);
  folder_.write("shop.toml", "[lines]\nfile = \"lines.csv\"\n[[require]]\ncondition = \"order_id = 'A1'\"\n");
  EXPECT_EQ(pear({"import", "shop.toml"}).exit_code, 0);
}

TEST_F(ImportProgram, PreviewsDuplicates) {
  folder_.write("lines.csv", kJanuary + "A1,2024-01-05,C9,P10,1,2.50,North\n");
  folder_.write("shop.toml",
                "[lines]\nfile = \"lines.csv\"\n[[duplicates]]\nsame = [\"order_id\", \"product_id\"]\nkeep "
                "= \"last\"\n");
  const ProgramRun run = pear({"import", "shop.toml", "--preview-duplicates"});
  EXPECT_EQ(run.exit_code, 0) << run.err;
  EXPECT_TRUE(run.out.starts_with("1 group of duplicates: 1 row would be dropped, 1 would be kept.\n"))
      << run.out;
  EXPECT_EQ(read_file(folder_ / "shop-import/duplicates.csv"),
            "table,group,rank,stays,same,by,source,line\nlines,1,1,yes,A1 | "
            "P10,,lines.csv,4\nlines,1,2,no,A1 | P10,,lines.csv,2\n");
  EXPECT_FALSE(std::filesystem::exists(folder_ / "shop.daybook"));
}

TEST_F(ImportProgram, TheReportListsEveryStep) {
  make_shop_files(folder_, "d", 16'000);
  const std::string report = read_file(last_report(folder_ / "d/thistledown-import") + "/import.md");
  for (const char* part : {"# Import\n", "| lines | d/order-lines.csv | 16,053 | 16,000 | 48 | 0 | 5 |",
                           "## Joins", "- passed: of every source"})
    EXPECT_NE(report.find(part), std::string::npos) << part;
  const std::string changed =
      read_file(last_report(folder_ / "d/thistledown-import") + "/import-changed.csv");
  EXPECT_NE(changed.find(",customer_id,trim,"), std::string::npos);
  const std::string package = read_file(last_report(folder_ / "d/thistledown-import") + "/datapackage.json");
  EXPECT_NE(package.find("\"import-unmatched\""), std::string::npos);
}

TEST_F(ImportProgram, InspectWritesAnIntakeFileThatImports) {
  make_shop_files(folder_, "d", 16'000);
  const std::vector<std::string> words = {"inspect",        "d/orders.csv",    "d/order-lines.csv",
                                          "d/products.csv", "d/customers.csv", "--write",
                                          "d/guess.toml"};
  const ProgramRun run = pear(words);
  EXPECT_EQ(run.exit_code, 0) << run.err;
  EXPECT_NE(run.out.find("16,048 of 16,053 rows would become lines of the daybook."), std::string::npos)
      << run.out;
  EXPECT_EQ(pear({"import", "d/guess.toml", "--daybook", "g.daybook"}).exit_code, 0);
  EXPECT_EQ(
      fault(words),
      "2: --write d/guess.toml: this file exists already and may contain your edits. Choose another name.");
  EXPECT_EQ(fault({"inspect"}).substr(0, 36), "2: inspect needs a file or database.");
  EXPECT_EQ(fault({"inspect", "none.csv"}), "4: cannot open none.csv: No such file or directory");
}

TEST_F(ImportProgram, ExportReturnsTheLines) {
  make_shop_files(folder_, "d", 3'000);
  const std::string book = "d/thistledown.daybook";
  ASSERT_EQ(pear({"export", book, "--into", "all.csv"}).exit_code, 0);
  const ProgramRun pairs =
      pear({"export", book, "--where", "region = 'North'", "--into", "sqlite:///o.db?table=lines", "--where",
            "amount < 0 OR year = 2024", "--into", "other.csv"});
  EXPECT_EQ(pairs.exit_code, 0) << pairs.err;
  ASSERT_EQ(pear({"export", book, "--split", "region", "--into", "by.csv"}).exit_code, 0);
  const auto lines_of = [&](const std::string& file) {
    const std::string text = read_file(folder_ / file);
    return std::count(text.begin(), text.end(), '\n') - 1;
  };
  EXPECT_EQ(lines_of("all.csv"), 3000);
  long split = 0;
  for (const char* region : {"north", "east", "south", "west", "islands"})
    split += lines_of("by-" + std::string(region) + ".csv");
  EXPECT_EQ(split, 3000);
  const std::string counted = std::to_string(lines_of("by-north.csv"));
  ASSERT_EQ(pear({"import", "all.csv", "--daybook", "again.daybook", "--quiet"}).exit_code, 0);
  EXPECT_NE(pear({"status", "again.daybook"}).out.find("3,000 lines"), std::string::npos);
  EXPECT_NE(pairs.out.find("o.db, table lines (" +
                           std::string(counted.size() > 3 ? counted.substr(0, counted.size() - 3) + "," +
                                                                counted.substr(counted.size() - 3)
                                                          : counted) +
                           " lines)"),
            std::string::npos)
      << pairs.out;
  EXPECT_EQ(fault({"export", book, "--where", "regin = 'North'"}),
            "2: --where: there is no column \"regin\". Did you mean \"region\"? (column 1)");
  EXPECT_EQ(fault({"export", book, "--split", "regon"}),
            "2: --split: d/thistledown.daybook has no column \"regon\". Did you mean \"region\"?");
  EXPECT_EQ(fault({"export", book, "--into", "a.csv", "--into", "b.csv"}),
            "2: 2 --into need as many --where, to say which lines go where.");
  EXPECT_EQ(fault({"export", book, "--into", "sqlite:///o.db"}),
            "2: --into o.db does not name a table. Add it at the end, as ?table=lines.");
  EXPECT_EQ(fault({"export", book, "--into", "sqlite:///o.db?table=lines"}),
            "4: cannot write the table \"lines\" of o.db: table \"lines\" already exists.");
}

}  // namespace
}  // namespace pear::test
