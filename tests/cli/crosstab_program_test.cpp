// crosstab as a user runs it: the built program on files in a folder.
#include <gtest/gtest.h>

#include "support/run_program.hpp"

namespace pear::test {
namespace {

class CrosstabProgram : public testing::Test {
 protected:
  CrosstabProgram() {
    folder_.write("sales.csv",
                  "order_id,order_date,customer_id,product_id,quantity,unit_price,region\n"
                  "A1,2023-02-01,C1,P1,2,1500.00,North\n"
                  "A1,2023-02-01,C1,P2,1,10000.00,North\n"
                  "A2,2024-02-01,C1,P1,1,1500.00,North\n"
                  "A3,2024-03-01,C2,P1,4,1400.00,\"South, far\"\n"
                  "A4,2024-03-02,C3,P2,1,9000.00,\n");
    EXPECT_EQ(pear({"import", "sales.csv", "--quiet"}).exit_code, 0);
  }
  ProgramRun pear(const std::vector<std::string>& words) { return run_pear(folder_, words); }
  std::string file(const std::string& name) { return read_file(folder_ / name); }
  TemporaryFolder folder_;
};

TEST_F(CrosstabProgram, ShowsAndWritesTheTableWithItsTotals) {
  const ProgramRun run = pear({"crosstab", "--down", "region", "--across", "year", "--count",
                               "sum(amount) as sales, customers", "--figure", "none"});
  EXPECT_EQ(run.err, "");
  EXPECT_EQ(run.exit_code, 0);
  EXPECT_EQ(
      run.out,
      "Highest sales by region: North with 14,500 (49.8% of 29,100); lowest: South, far with 5,600.\n"
      "The highest cell is North in 2023 with 13,000.\n\n"
      "Population  3 customers, 4 orders, 5 lines, amount 29,100.00, 2023-02-01 to 2024-03-02\n"
      "Selection   all lines of sales.daybook\n\n"
      "sales and customers by region, across year\n"
      "              ───── 2023 ──────  ───── 2024 ──────  ───── Total ─────\n"
      "  region       sales  customers   sales  customers   sales  customers\n"
      "  North       13,000          1   1,500          1  14,500          1\n"
      "  South, far       0          0   5,600          1   5,600          1\n"
      "  (empty)          0          0   9,000          1   9,000          1\n"
      "  Total       13,000          1  16,100          3  29,100          3\n\n"
      "2 checks passed: each of the 5 lines is in exactly one cell; sales of all cells add up to the totals\n"
      "and to 29,100.\n"
      "Written     pear-out/crosstab.csv, pear-out/crosstab-long.csv, pear-out/datapackage.json\n");
  EXPECT_EQ(file("pear-out/crosstab.csv"),
            "region,2023 sales,2023 customers,2024 sales,2024 customers,Total sales,Total customers\n"
            "North,13000.00,1,1500.00,1,14500.00,1\n"
            "\"South, far\",0.00,0,5600.00,1,5600.00,1\n"
            "(empty),0.00,0,9000.00,1,9000.00,1\n"
            "Total,13000.00,1,16100.00,3,29100.00,3\n");
  EXPECT_EQ(file("pear-out/crosstab-long.csv"),
            "region,year,sales,customers\n"
            "North,2023,13000.00,1\n"
            "North,2024,1500.00,1\n"
            "\"South, far\",2024,5600.00,1\n"
            "(empty),2024,9000.00,1\n");
}

TEST_F(CrosstabProgram, AWideTableReportsHiddenColumnsAndItsFile) {
  const std::vector<std::string> words = {"crosstab", "--down",   "region", "--across",
                                          "month",    "--figure", "none"};
  const std::string piped = pear(words).out;
  EXPECT_EQ(piped.find("  ... "), std::string::npos) << "a pipe has no width: " << piped;
  EXPECT_NE(piped.find("2023-02  2023-03"), std::string::npos);
  setenv("COLUMNS", "80", 1);
  const ProgramRun run = pear(words);
  unsetenv("COLUMNS");
  EXPECT_NE(run.out.find("2024-02  2024-03"), std::string::npos) << "the newest months: " << run.out;
  EXPECT_EQ(run.out.find("2023-02  2023-03"), std::string::npos);
  EXPECT_NE(run.out.find("  ... the columns "), std::string::npos) << run.out;
  EXPECT_NE(run.out.find(" in pear-out/crosstab.csv"), std::string::npos) << run.out;
  EXPECT_NE(run.out.find("  Total"), std::string::npos);
}

TEST_F(CrosstabProgram, SelectionIsShownAndDrawn) {
  const ProgramRun run = pear({"crosstab", "--down", "month", "--where", "region = 'North'", "--from",
                               "2023-02-01", "--details", "month=2023-02", "--figure", "svg"});
  EXPECT_EQ(run.exit_code, 0) << run.err;
  EXPECT_NE(run.out.find("1 of 3 customers, 2 of 4 orders, 3 of 5 lines, amount 14,500.00 of 29,100.00"),
            std::string::npos)
      << run.out;
  EXPECT_NE(run.out.find("Selection   region = 'North', from 2023-02-01 of sales.daybook"),
            std::string::npos);
  EXPECT_NE(file("pear-out/datapackage.json").find("\"selected_from\""), std::string::npos);
  EXPECT_NE(file("pear-out/crosstab.svg").find("2023-02"), std::string::npos);
  EXPECT_EQ(file("pear-out/crosstab-details.csv"),
            "order_id,order_date,customer_id,product_id,quantity,unit_price,amount,is_return,region,month\n"
            "A1,2023-02-01,C1,P1,2,1500.00,3000.00,false,North,2023-02\n"
            "A1,2023-02-01,C1,P2,1,10000.00,10000.00,false,North,2023-02\n");
}

TEST_F(CrosstabProgram, MistakesHaveTheirExitCodes) {
  EXPECT_EQ(pear({"crosstab"}).exit_code, 2);
  EXPECT_EQ(pear({"crosstab", "--down", "regio"}).exit_code, 2);
  EXPECT_EQ(pear({"crosstab", "--down", "region", "--count", "sum(region)"}).exit_code, 2);
  const ProgramRun none = pear({"crosstab", "--down", "region", "--where", "region = 'north'"});
  EXPECT_EQ(none.exit_code, 3);
  EXPECT_NE(none.err.find("No region is \"north\". Did you mean \"North\"?"), std::string::npos) << none.err;
  EXPECT_EQ(pear({"crosstab", "--down", "region", "--across", "year", "--out", "sales.csv/x"}).exit_code, 4);
}

}  // namespace
}  // namespace pear::test
