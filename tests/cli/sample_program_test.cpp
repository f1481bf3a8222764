// Imports of a sample of customers, from files and databases.
#include <chrono>
#include <csignal>
#include <cstdlib>
#include <map>
#include <thread>

#include <fmt/format.h>
#include <gtest/gtest.h>

#include "database/connection.hpp"
#include "intake/clean/customer_sample.hpp"
#include "storage/daybook_reader.hpp"
#include "support/made_up_shop.hpp"

namespace pear::test {
namespace {

using Amounts = std::map<std::string, std::vector<std::int64_t>>;

/// By customer, the amounts of their lines, in order.
Amounts amounts_in(const std::string& path) {
  const daybook::Daybook daybook = *storage::DaybookFile::open(path)->load_all();
  Amounts amounts;
  for (std::uint32_t customer = 0; customer < daybook.customers(); ++customer) {
    const daybook::Run orders = daybook.orders_of(customer);
    const std::uint32_t begin = daybook.lines_of(orders.begin).begin,
                        end = daybook.lines_of(orders.end - 1).end;
    amounts[std::string(daybook.customer_ids()[customer])].assign(daybook.amounts().begin() + begin,
                                                                  daybook.amounts().begin() + end);
  }
  return amounts;
}

Amounts sampled(Amounts amounts, std::uint32_t one_in) {
  std::erase_if(amounts, [&](const auto& customer) { return !intake::is_in_sample(customer.first, one_in); });
  return amounts;
}

const char* server() { return std::getenv("PEAR_TEST_POSTGRESQL"); }

/// Waits up to ten seconds.
template <class Condition>
bool comes_true(const Condition& condition) {
  for (int tries = 0; tries < 100; ++tries) {
    if (condition()) return true;
    std::this_thread::sleep_for(std::chrono::milliseconds(100));
  }
  return false;
}

TEST(Sample, HasAllLinesOfItsCustomersFromOneFileAndFromFour) {
  for (const bool is_flat : {true, false}) {
    const TemporaryFolder folder;
    make_shop_files(folder, "d", 4'000, is_flat);
    const ProgramRun run = run_pear(folder, {"import", is_flat ? "d/sales.csv" : "d/shop.toml", "--customers",
                                             "1/5", "--daybook", "s.daybook"});
    ASSERT_EQ(run.exit_code, 0) << run.err;
    EXPECT_NE(run.out.find("Population  a sample of 1 in 5 customers: "), std::string::npos) << run.out;
    EXPECT_NE(run.out.find("not in the sample of 1 in 5 customers"), std::string::npos) << run.out;
    const Amounts whole = amounts_in(folder / "d/thistledown.daybook");
    EXPECT_EQ(amounts_in(folder / "s.daybook"), sampled(whole, 5));
    EXPECT_EQ(read_file(folder / "s-import/import-excluded.csv"), "");
  }
}

TEST(Sample, IsNamedInEveryAnswer) {
  const TemporaryFolder folder;
  make_shop_files(folder, "d", 4'000, true);
  ASSERT_EQ(
      run_pear(folder, {"import", "d/sales.csv", "--customers", "1/5", "--daybook", "s.daybook"}).exit_code,
      0);
  const ProgramRun run =
      run_pear(folder, {"frequency", "s.daybook", "--figure", "none", "--where", "quantity > 1"});
  EXPECT_NE(run.out.find("Population  a sample of 1 in 5 customers: "), std::string::npos) << run.out;
  EXPECT_NE(run.out.find("The daybook is a sample: counts and amounts are about 1 in 5 of the shop's."),
            std::string::npos)
      << run.out;
  EXPECT_NE(read_file(folder / "pear-out/frequency.csv").find("share,cumulative_share,share_low,share_high"),
            std::string::npos);
  EXPECT_NE(read_file(folder / "pear-out/datapackage.json").find("\"sample_of_one_in\": 5"),
            std::string::npos);
  EXPECT_EQ(run_pear(folder, {"retention", "s.daybook", "--figure", "none"}).exit_code, 0);
  EXPECT_NE(
      read_file(folder / "pear-out/retention-cells.csv")
          .find("share,share_low,share_high,ordered_again,repeat_rate,repeat_rate_low,repeat_rate_high"),
      std::string::npos);
  EXPECT_NE(run_pear(folder, {"status", "s.daybook"}).out.find("a sample of 1 in 5 customers: "),
            std::string::npos);
  const ProgramRun whole = run_pear(folder, {"frequency", "d/thistledown.daybook", "--figure", "none"});
  EXPECT_EQ(whole.out.find("sample"), std::string::npos);
  EXPECT_EQ(read_file(folder / "pear-out/frequency.csv").find("share_low"), std::string::npos);
}

TEST(Sample, GrowsOnlyByTheSameSample) {
  const TemporaryFolder folder;
  make_shop_files(folder, "d", 4'000, true);
  const std::string text = read_file(folder / "d/sales.csv");
  const std::size_t half = text.find('\n', text.size() / 2) + 1;
  folder.write("a.csv", text.substr(0, half));
  folder.write("b.csv", text.substr(0, text.find('\n') + 1) + text.substr(half));
  ASSERT_EQ(run_pear(folder, {"import", "a.csv", "--customers", "1/5", "--daybook", "s.daybook"}).exit_code,
            0);
  const ProgramRun refused = run_pear(folder, {"import", "b.csv", "--daybook", "s.daybook", "--append"});
  EXPECT_EQ(refused.exit_code, 2);
  EXPECT_EQ(refused.err,
            "pear-thread: error: s.daybook contains a sample of 1 in 5 customers, and the new lines would be "
            "those of "
            "all customers. Append with --customers 1/5.\n");
  const ProgramRun run =
      run_pear(folder, {"import", "b.csv", "--daybook", "s.daybook", "--append", "--customers", "1/5"});
  ASSERT_EQ(run.exit_code, 0) << run.err;
  EXPECT_EQ(amounts_in(folder / "s.daybook"), sampled(amounts_in(folder / "d/thistledown.daybook"), 5));
  EXPECT_NE(run.out.find("a sample of 1 in 5 customers: "), std::string::npos) << run.out;
  EXPECT_EQ(run_pear(folder, {"import", "a.csv", "--customers", "1/100000", "--daybook", "n.daybook"})
                .err.find("pear-thread: error: the sample of 1 in 100000 customers contains none of those "
                          "that have lines. Take a larger "),
            0U);
}

/// PostgreSQL sends the lines of the sample only: from one table, and from lines without a customer.
TEST(Sample, IsTakenByTheDatabase) {
  if (server() == nullptr) GTEST_SKIP() << "no PostgreSQL: PEAR_TEST_POSTGRESQL is not set";
  const TemporaryFolder folder;
  make_shop_files(folder, "d", 4'000, true);
  const Amounts expected = sampled(amounts_in(folder / "d/thistledown.daybook"), 5);
  ASSERT_EQ(run_pear(folder,
                     {"export", "d/thistledown.daybook", "--into", std::string(server()) + "&table=sampled"})
                .exit_code,
            0);
  auto session = *database::connect(*database::parse_database_address(server()), false);
  *session << "CREATE TABLE sampled_heads AS SELECT DISTINCT order_id AS number, order_date, customer_id "
              "FROM sampled";
  *session << "CREATE TABLE sampled_lines AS SELECT order_id, product_id, quantity, unit_price, amount FROM "
              "sampled";
  const std::string at = fmt::format("database = \"{}\"\ntable = ", server());
  folder.write("one.toml", "[lines]\n" + at + "\"sampled\"\n");
  folder.write("two.toml", "[lines]\n" + at + "\"sampled_lines\"\n[orders]\n" + at +
                               "\"sampled_heads\"\ncolumns = { order_id = \"number\" }\n");
  std::size_t lines = 0;
  for (const auto& [customer, amounts] : expected) lines += amounts.size();
  for (const char* name : {"one", "two"}) {
    const ProgramRun run = run_pear(folder, {"import", std::string(name) + ".toml", "--customers", "1/5"});
    ASSERT_EQ(run.exit_code, 0) << run.err;
    EXPECT_EQ(amounts_in(folder / (std::string(name) + ".daybook")), expected) << name;
    EXPECT_NE(run.out.find(fmt::format("{0} of {0} rows read", lines)), std::string::npos) << run.out;
  }
  for (const char* table : {"sampled", "sampled_heads", "sampled_lines"})
    *session << fmt::format("DROP TABLE {}", table);
}

/// A statement ends with the program that asked for it.
TEST(WarehouseStop, EndsTheStatementOfTheDatabase) {
  if (server() == nullptr) GTEST_SKIP() << "no PostgreSQL: PEAR_TEST_POSTGRESQL is not set";
  const TemporaryFolder folder;
  auto session = *database::connect(*database::parse_database_address(server()), false);
  int version = 0;
  *session << "SELECT current_setting('server_version_num')::int / 10000", soci::into(version);
  if (version < 14)
    GTEST_SKIP() << "PostgreSQL ends statements of clients that have ended from version 14 on";
  const std::string query =
      "SELECT 'O1' AS order_id, DATE '2024-01-01' AS order_date, 'C1' AS customer_id, 'P1' AS product_id, 1 "
      "AS "
      "quantity, 2 AS amount FROM pg_sleep(60)";
  folder.write("slow.toml", fmt::format("[lines]\ndatabase = \"{}\"\nquery = \"{}\"\n", server(), query));
  const auto is_running = [&] {
    int running = 0;
    *session << "SELECT COUNT(*) FROM pg_stat_activity WHERE state = 'active' AND wait_event = 'PgSleep'",
        soci::into(running);
    return running > 0;
  };
  for (const int signal : {SIGINT, SIGKILL}) {
    const pid_t question = start_pear(folder, {"frequency", "slow.toml"});
    EXPECT_TRUE(comes_true(is_running));
    kill(question, signal);
    EXPECT_EQ(exit_code_of(question), 128 + signal);
    EXPECT_TRUE(comes_true([&] { return !is_running(); }));
  }
}

}  // namespace
}  // namespace pear::test
