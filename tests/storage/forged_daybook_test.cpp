// Daybooks with values that no import writes, under the right checksums.
#include <cstdint>
#include <limits>
#include <string>
#include <utility>
#include <vector>

#include <gtest/gtest.h>
#include <rapidcheck/gtest.h>
#include <sqlite3.h>

#include "daybook/columns/derived_columns.hpp"
#include "daybook/merge.hpp"
#include "storage/changed_daybook.hpp"
#include "storage/daybook_reader.hpp"
#include "storage/daybook_writer.hpp"
#include "storage/page.hpp"
#include "storage/schema.hpp"
#include "support/importing.hpp"
#include "support/random_shop.hpp"
#include "support/temporary_folder.hpp"

namespace pear::test {
namespace {

/// Gives an array other values, with the right checksums: what a program other than ours could write.
template <class T>
void forge(const std::string& path, const std::string& array, const std::vector<T>& values) {
  const storage::Page page = storage::encode_page<T>(values, storage::kEmptyOf<T>);
  sqlite3* database = nullptr;
  sqlite3_open(path.c_str(), &database);
  sqlite3_stmt* update = nullptr;
  sqlite3_prepare_v2(database, "UPDATE segments SET bytes = ?, checksum = ?, members = ? WHERE array = ?", -1,
                     &update, nullptr);
  sqlite3_bind_blob(update, 1, page.bytes.data(), static_cast<int>(page.bytes.size()), SQLITE_STATIC);
  sqlite3_bind_int64(update, 2, static_cast<std::int64_t>(page.checksum));
  sqlite3_bind_int64(update, 3, page.members);
  sqlite3_bind_text(update, 4, array.c_str(), -1, SQLITE_STATIC);
  EXPECT_EQ(sqlite3_step(update), SQLITE_DONE);
  EXPECT_EQ(sqlite3_changes(database), 1) << array;
  sqlite3_finalize(update);
  sqlite3_close(database);
}

/// Values that no daybook has, under right checksums, in a format 2 daybook, whose description has none.
class ForgedDaybook : public testing::Test {
 protected:
  ForgedDaybook() {
    const std::string text =
        "order_id,order_date,customer_id,product_id,quantity,unit_price,region\n"
        "A1,2024-01-01 "
        "10:00,C1,P1,1,1.00,North\nA2,2024-01-02,C1,P2,2,1.50,North\nA3,2024-01-01,C2,P1,1,1.00,South\n";
    const auto imported = import_text(text);
    EXPECT_TRUE(storage::write_daybook(path_, imported.imported->built.daybook, kProvenance));
    execute(path_, kAsFormat2);
  }
  /// What loading everything says, without the file and the remedy.
  std::string fault() {
    auto file = storage::DaybookFile::open(path_);
    if (!file) return what(file.error().message);
    const auto all = file->load_all();
    return all ? "" : what(all.error().message);
  }
  std::string what(const std::string& message) {
    const std::size_t begin = message.find(": ") + 2, end = message.find(". Import again");
    return message.substr(begin, end - begin);
  }
  TemporaryFolder folder_;
  std::string path_ = folder_ / "forged.daybook";
};

TEST_F(ForgedDaybook, IsReadableIfItsValuesAreProper) { EXPECT_EQ(fault(), ""); }

TEST_F(ForgedDaybook, MayNotReferToProductsThatDoNotExist) {
  forge<std::uint32_t>(path_, "line.product", {0, 2, 0});
  EXPECT_EQ(fault(), "segment 0 of line.product: it contains a value that is out of range");
}

TEST_F(ForgedDaybook, MayNotReferToTextsThatDoNotExist) {
  forge<std::uint32_t>(path_, "column.region", {0, 2});
  EXPECT_EQ(fault(), "segment 0 of column.region: it contains a value that is out of range");
}

TEST_F(ForgedDaybook, CountsMayNotWrapAround) {
  forge<std::uint32_t>(path_, "customer.orders", {0x80000000U, 0x80000003U});
  EXPECT_EQ(fault(), "segment 0 of customer.orders: it contains a value that is out of range");
  forge<std::uint32_t>(path_, "customer.orders", {3, 3});
  EXPECT_EQ(fault(), "customer.orders does not add up to 3");
  forge<std::uint32_t>(path_, "customer.orders", {0, 3});
  EXPECT_EQ(fault(), "segment 0 of customer.orders: it contains a value that is out of range");
}

TEST_F(ForgedDaybook, DatesTimesAndFlagsMustBeInRange) {
  forge<std::int32_t>(path_, "column.order_date", {19'723, 10'000'000, 19'723});
  EXPECT_EQ(fault(), "segment 0 of column.order_date: it contains a value that is out of range");
  forge<std::int32_t>(path_, "column.order_date", {19'723, daybook::kEmptyDays, 19'723});
  EXPECT_EQ(fault(), "segment 0 of column.order_date: it contains a value that is out of range");
  forge<std::int32_t>(path_, "column.order_date", {19'723, 19'724, 19'723});
  forge<std::int32_t>(path_, "column.order_time", {36'000, 86'400, -1});
  EXPECT_EQ(fault(), "segment 0 of column.order_time: it contains a value that is out of range");
  forge<std::int32_t>(path_, "column.order_time", {36'000, -1, -1});
  forge<std::uint8_t>(path_, "column.is_return", {0, 2, 0});
  EXPECT_EQ(fault(), "segment 0 of column.is_return: it contains a value that is out of range");
}

TEST_F(ForgedDaybook, AmountsMayNotBeEmpty) {
  forge<std::int64_t>(path_, "column.amount", {10'000, daybook::kEmptyUnits, 10'000});
  EXPECT_EQ(fault(), "segment 0 of column.amount: it contains a value that is out of range");
}

TEST_F(ForgedDaybook, VerifyFindsWrongOrders) {
  forge<std::int32_t>(path_, "column.order_date", {19'724, 19'723, 19'723});
  EXPECT_EQ(fault(), "");
  storage::DaybookFile file = *storage::DaybookFile::open(path_);
  EXPECT_NE(file.verify().error().message.find("fingerprint"), std::string::npos);
}

TEST_F(ForgedDaybook, DescriptionsMustAgree) {
  const std::string whole = read_file(path_);
  const std::vector<std::pair<const char*, const char*>> changes = {
      {"UPDATE about SET value = '0' WHERE key = 'products'",
       "its numbers of customers, orders, lines and products do not agree"},
      {"UPDATE about SET value = '1000000000' WHERE key = 'customers'",
       "its numbers of customers, orders, lines and products do not agree"},
      {"UPDATE about SET value = 'abc' WHERE key = 'products'", "its description is incomplete"},
      {"UPDATE about SET value = '4000000000' WHERE key = 'lines'",
       "order.lines does not add up to 4000000000"},
      {"UPDATE columns SET type = 'text' WHERE name = 'amount'", "it has no proper column amount"},
      {"DELETE FROM columns WHERE name = 'is_return'", "it has no proper column is_return"},
      {"UPDATE columns SET level = 'line' WHERE name = 'order_date'", "it has no proper column order_date"},
      {"UPDATE columns SET distinct_texts = 0 WHERE name = 'region'",
       "segment 0 of column.region: it contains a value that is out of range"},
      {"UPDATE columns SET distinct_texts = 4611686018427387904 WHERE name = 'region'",
       "its column \"region\" has more texts than codes"},
      {"DROP TABLE columns; CREATE VIEW columns AS WITH RECURSIVE r(x) AS (SELECT 1 UNION ALL SELECT x FROM "
       "r)"
       " SELECT x AS position, 'a' AS name, 'line' AS level, 'text' AS type, 1 AS distinct_texts FROM r",
       "one of its tables is missing, or is not a table"},
      {"INSERT INTO segments SELECT array, 1, members, codec, checksum, bytes FROM segments WHERE array = "
       "'line.product'",
       "line.product has 2 segments for 3 members"},
      {"UPDATE segments SET codec = 7 WHERE array = 'column.amount'",
       "segment 0 of column.amount: its integers are compressed"},
      {"UPDATE segments SET codec = 7 WHERE array = 'column.region.dictionary'",
       "segment 0 of column.region.dictionary: its codec 7 is unknown"}};
  for (const auto& [change, expected] : changes) {
    folder_.write("forged.daybook", whole);
    execute(path_, change);
    EXPECT_EQ(fault(), expected) << change;
  }
}

/// So many values: mostly ones that some daybook could have, and sometimes the ends of the type.
template <class T>
std::vector<T> made_up_values(std::size_t count) {
  constexpr T kLowest = std::numeric_limits<T>::min(), kHighest = std::numeric_limits<T>::max();
  return *rc::gen::container<std::vector<T>>(
      count, rc::gen::weightedOneOf<T>(
                 {{8, rc::gen::inRange<T>(0, 6)},
                  {1, rc::gen::elementOf(std::vector<T>{kLowest, kHighest, storage::kEmptyOf<T>})},
                  {1, rc::gen::arbitrary<T>()}}));
}

/// A daybook with other values under the right checksums is refused, or everything can be computed from it,
/// and
/// --verify finds the change.
RC_GTEST_PROP(ForgedDaybooks, AreRefusedOrHarmless, ()) {
  const TemporaryFolder folder;
  const std::string path = folder / "forged.daybook";
  const daybook::Daybook whole = random_daybook();
  RC_ASSERT(storage::write_daybook(path, whole, kProvenance).has_value());
  execute(path, kAsFormat2);
  const auto honest = storage::DaybookFile::open(path);
  if (!honest) RC_FAIL(honest.error().message);
  const std::vector<storage::DaybookInfo::ColumnInfo> columns = honest->info().columns;
  const std::size_t place = *rc::gen::inRange<std::size_t>(0, columns.size() + 3);
  if (place < columns.size()) {
    const std::size_t members = honest->info().members(columns[place].level);
    const std::string array = storage::array_name::of_column(columns[place].name);
    switch (columns[place].type) {
      case daybook::ColumnType::text:
        forge(path, array, made_up_values<std::uint32_t>(members));
        break;
      case daybook::ColumnType::decimal:
        forge(path, array, made_up_values<std::int64_t>(members));
        break;
      case daybook::ColumnType::date:
      case daybook::ColumnType::time:
        forge(path, array, made_up_values<std::int32_t>(members));
        break;
      case daybook::ColumnType::flag:
        forge(path, array, made_up_values<std::uint8_t>(members));
        break;
    }
  } else if (place == columns.size()) {
    forge(path, "customer.orders", made_up_values<std::uint32_t>(whole.customers()));
  } else if (place == columns.size() + 1) {
    forge(path, "order.lines", made_up_values<std::uint32_t>(whole.orders()));
  } else {
    forge(path, "line.product", made_up_values<std::uint32_t>(whole.lines()));
  }
  auto file = storage::DaybookFile::open(path);
  auto loaded = file ? file->load_all() : tl::unexpected(file.error());
  if (!loaded) {
    RC_ASSERT(loaded.error().kind == ErrorKind::data);
    return;
  }
  RC_ASSERT(loaded->parts() == whole.parts() || !file->verify().has_value());
  std::vector<std::string> names;
  for (const auto& column : columns) names.push_back(column.name);
  const daybook::Daybook all = daybook::completed(*loaded, daybook::known_columns(names));
  for (const daybook::Column& column : all.parts().columns)
    for (std::uint32_t member = 0; member < file->info().members(column.level); ++member)
      (void)daybook::value_text(column.values, member);
  (void)daybook::merge_daybooks(*loaded, whole, {});
}

}  // namespace
}  // namespace pear::test
