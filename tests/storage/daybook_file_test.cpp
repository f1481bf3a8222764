#include <chrono>
#include <limits>
#include <thread>

#include <fmt/format.h>
#include <gtest/gtest.h>
#include <rapidcheck/gtest.h>
#include <sqlite3.h>

#include "daybook/columns/derived_columns.hpp"
#include "daybook/merge.hpp"
#include "storage/daybook_reader.hpp"
#include "storage/daybook_writer.hpp"
#include "storage/page.hpp"
#include "storage/schema.hpp"
#include "support/importing.hpp"
#include "support/random_shop.hpp"
#include "support/temporary_folder.hpp"

namespace pear::test {
namespace {

const daybook::Provenance kProvenance{"Shop",
                                      "EUR",
                                      {{"sales.csv", "lines", 123, "abc", 10, 7, 1, 2}},
                                      {{"rejected: quantity is empty", 1}},
                                      {}};

void execute(const std::string& path, const char* sql) {
  sqlite3* database = nullptr;
  sqlite3_open(path.c_str(), &database);
  ASSERT_EQ(sqlite3_exec(database, sql, nullptr, nullptr, nullptr), SQLITE_OK) << sqlite3_errmsg(database);
  sqlite3_close(database);
}

/// Turns a daybook into one of format 2, whose description has no checksum and no runs.
constexpr const char* kAsFormat2 =
    "UPDATE about SET value = '2' WHERE key = 'format_version'; DROP TABLE import_runs;"
    "CREATE TABLE import_runs (run INTEGER PRIMARY KEY, source, bytes, content_hash, table_name, rows_read,"
    " rows_kept, rows_duplicate, rows_rejected);"
    "INSERT INTO import_runs SELECT position, source, bytes, content_hash, table_name, rows_read, rows_kept,"
    " rows_duplicate, rows_rejected FROM sources; DROP TABLE sources";

std::string open_fault(const std::string& path) {
  auto file = storage::DaybookFile::open(path);
  if (!file) return file.error().message;
  const auto all = file->verify();
  return all ? "" : all.error().message;
}

RC_GTEST_PROP(DaybookFile, ReadsBackWhatWasWritten, ()) {
  const TemporaryFolder folder;
  const daybook::Daybook daybook = build(random_sales(true)).daybook;
  const std::string fingerprint = *storage::write_daybook(folder / "shop.daybook", daybook, kProvenance);
  storage::DaybookFile file = *storage::DaybookFile::open(folder / "shop.daybook");
  RC_ASSERT(file.info().fingerprint == fingerprint);
  RC_ASSERT(file.info().provenance == kProvenance);
  RC_ASSERT(file.load_all()->parts() == daybook.parts());
  RC_ASSERT(file.verify().has_value());
  RC_ASSERT(folder.list() == "shop.daybook");
}

/// Values of every width, with and without empties, over several pages.
/// As many lines as a segment holds, and one more.
TEST(DaybookFile, SegmentsMayBeExactlyFull) {
  const TemporaryFolder folder;
  Sales sales;
  constexpr std::size_t kFull = storage::kPageValues;
  for (const std::size_t lines : {kFull, kFull + 1}) {
    while (sales.size() < lines) {
      const auto i = static_cast<int>(sales.size());
      sales.push_back(
          {"A" + std::to_string(i), "2024-01-01", "C" + std::to_string(i % 100), "P1", 1 + i % 7, 100});
    }
    const daybook::Daybook daybook = build(sales).daybook;
    ASSERT_TRUE(storage::write_daybook(folder / "shop.daybook", daybook, kProvenance));
    storage::DaybookFile file = *storage::DaybookFile::open(folder / "shop.daybook");
    const auto read = file.load_all();
    ASSERT_TRUE(read) << read.error().message;
    EXPECT_TRUE(read->parts() == daybook.parts()) << lines;
    EXPECT_TRUE(file.verify()) << lines;
  }
}

RC_GTEST_PROP(Page, StoresAnyValues, ()) {
  const std::int64_t factor = *rc::gen::element<std::int64_t>(1, 100, 10'000);
  const int bits = *rc::gen::inRange(0, 49);
  const auto values = *rc::gen::container<std::vector<std::int64_t>>(
      rc::gen::map(rc::gen::arbitrary<std::int64_t>(), [=](std::int64_t value) {
        return value % 7 == 0 ? daybook::kEmptyUnits : (value >> (63 - bits)) * factor;
      }));
  std::vector<std::int64_t> decoded(values.size());
  const storage::Page page = storage::encode_page<std::int64_t>(values, daybook::kEmptyUnits);
  RC_ASSERT(storage::decode_page<std::int64_t>(page, decoded, daybook::kEmptyUnits).has_value());
  RC_ASSERT(decoded == values);
}

TEST(Page, StoresTheWholeRangeOfIntegers) {
  const std::vector<std::int64_t> values = {std::numeric_limits<std::int64_t>::max(),
                                            daybook::kEmptyUnits + 1, 0, -1};
  std::vector<std::int64_t> decoded(values.size());
  ASSERT_TRUE(storage::decode_page<std::int64_t>(
      storage::encode_page<std::int64_t>(values, daybook::kEmptyUnits), decoded, daybook::kEmptyUnits));
  EXPECT_EQ(decoded, values);
}

/// A daybook with every kind of column and more than one page.
daybook::Daybook big_daybook() {
  std::string text =
      "order_id,order_date,customer_id,product_id,quantity,unit_price,list_price,region,since\n";
  for (int i = 0; i < 140'000; ++i)
    text +=
        fmt::format("A{0},2024-01-0{1} 10:{2},C{3},P{4},{1},{4}.25,{5},R{6},2020-02-{7}\n", i / 2, i % 9 + 1,
                    i % 50 + 10, i / 4, i % 20, i % 20 == 3 ? "" : "9.99", i / 4 % 5, i / 4 % 18 + 10);
  return std::move(import_text(text).imported->built.daybook);
}

TEST(DaybookFile, ReadsOnlyTheColumnsAskedFor) {
  const TemporaryFolder folder;
  const daybook::Daybook daybook = big_daybook();
  ASSERT_TRUE(storage::write_daybook(folder / "big.daybook", daybook, {}));
  storage::DaybookFile file = *storage::DaybookFile::open(folder / "big.daybook");
  EXPECT_EQ(file.load_all()->parts(), daybook.parts());
  const daybook::Daybook part = *file.load({"amount", "order_id", "no_such_column"});
  EXPECT_EQ(part.amounts().size(), daybook.lines());
  EXPECT_EQ(part.order_ids(), daybook.order_ids());
  EXPECT_THROW((void)part.customer_ids(), std::logic_error);
  EXPECT_EQ(part.find("region"), nullptr);
}

/// Flips one bit of every segment in turn; each time, the file, the segment and the remedy are named.
TEST(DaybookFile, FindsOneFlippedBitInAnySegment) {
  const TemporaryFolder folder;
  ASSERT_TRUE(storage::write_daybook(folder / "whole.daybook", big_daybook(), {}));
  const std::string whole = read_file(folder / "whole.daybook");
  int segments = 0;
  for (int rowid = 1;; ++rowid) {
    const std::string path = folder.write("flipped.daybook", whole);
    sqlite3* database = nullptr;
    sqlite3_open(path.c_str(), &database);
    sqlite3_blob* blob = nullptr;
    if (sqlite3_blob_open(database, "main", "segments", "bytes", rowid, 1, &blob) != SQLITE_OK) {
      sqlite3_close(database);
      break;
    }
    unsigned char byte = 0;
    const int at = (rowid * 7919) % sqlite3_blob_bytes(blob);
    sqlite3_blob_read(blob, &byte, 1, at);
    byte ^= 1U;
    sqlite3_blob_write(blob, &byte, 1, at);
    sqlite3_blob_close(blob);
    sqlite3_close(database);
    const std::string fault = open_fault(path);
    EXPECT_TRUE(fault.starts_with(path + " is damaged: segment ")) << rowid << ": " << fault;
    EXPECT_TRUE(fault.ends_with("its bytes do not match their checksum. Import again, or copy it again."))
        << fault;
    ++segments;
  }
  EXPECT_GT(segments, 20);
}

/// A column of which a segment is missing or has another number is never read as if it were whole.
TEST(DaybookFile, FindsEveryMissingSegment) {
  const TemporaryFolder folder;
  ASSERT_TRUE(storage::write_daybook(folder / "whole.daybook", big_daybook(), {}));
  const std::string whole = read_file(folder / "whole.daybook");
  const std::string changes[] = {
      "DELETE FROM segments WHERE rowid = ", "UPDATE segments SET page = page + 100 WHERE rowid = ",
      "UPDATE segments SET array = array || 'x' WHERE rowid = "};
  for (const std::string& change : changes)
    for (int rowid = 1; rowid <= 20; ++rowid) {
      const std::string path = folder.write("changed.daybook", whole);
      execute(path, (change + std::to_string(rowid)).c_str());
      auto file = storage::DaybookFile::open(path);
      const auto all = file ? file->load_all() : tl::unexpected(file.error());
      ASSERT_FALSE(all.has_value()) << change << rowid;
      EXPECT_EQ(all.error().kind, ErrorKind::data);
      EXPECT_TRUE(all.error().message.starts_with(path + " is damaged: ")) << all.error().message;
    }
}

TEST(DaybookFile, RejectsACutFileWhereverItIsCut) {
  const TemporaryFolder folder;
  ASSERT_TRUE(storage::write_daybook(folder / "whole.daybook", big_daybook(), {}));
  const std::string whole = read_file(folder / "whole.daybook");
  for (std::size_t size = 0; size < whole.size(); size += whole.size() / 23) {
    const std::string path = folder.write("cut.daybook", whole.substr(0, size));
    const auto file = storage::DaybookFile::open(path);
    ASSERT_FALSE(file.has_value()) << size;
    EXPECT_EQ(file.error().kind, ErrorKind::data);
    EXPECT_TRUE(file.error().message.find(size < 100 ? "is not a daybook" : "is cut short") !=
                std::string::npos);
  }
}

TEST(DaybookFile, RejectsFilesThatAreNoDaybooks) {
  const TemporaryFolder folder;
  const std::string path = folder / "shop.daybook";
  EXPECT_EQ(open_fault(path), "cannot open " + path + ": there is no such file.");
  EXPECT_EQ(open_fault(folder.path()), "cannot open " + folder.path() + ": it is a folder.");
  folder.write("shop.daybook", "order_id,order_date\n");
  EXPECT_EQ(open_fault(path), path + " is not a daybook. A daybook is made by pear-thread import.");
  std::filesystem::remove(path);
  execute(path, "CREATE TABLE about (key, value)");
  EXPECT_EQ(open_fault(path), path + " is not a daybook. A daybook is made by pear-thread import.");
}

TEST(DaybookFile, RejectsANewerFormatAndFindsChangedTables) {
  const TemporaryFolder folder;
  const std::string path = folder / "shop.daybook";
  ASSERT_TRUE(storage::write_daybook(path, build({{"A1", "2024-01-01", "C1", "P1", 1, 100}}).daybook, {}));
  const auto damage = [&](const std::string& what) {
    return path + " is damaged: " + what + ". Import again, or copy it again.";
  };
  execute(path, "UPDATE about SET value = 'USD' WHERE key = 'currency'");
  EXPECT_EQ(open_fault(path), damage("its description does not match its checksum"));
  execute(path, kAsFormat2);
  EXPECT_EQ(open_fault(path), "");  // without that checksum
  execute(path, "UPDATE about SET value = 'x' WHERE key = 'fingerprint'");
  EXPECT_EQ(open_fault(path), damage("its segments do not match its fingerprint"));
  execute(path, "UPDATE about SET value = '5' WHERE key = 'format_version'");
  EXPECT_EQ(open_fault(path),
            path + " has daybook format 5; this pear-thread reads formats up to 4. Use a newer one.");
}

/// Every byte of the tables that describe a daybook is covered. A change is found when the file is
/// opened.
TEST(DaybookFile, FindsEveryChangeOfTheDescription) {
  const TemporaryFolder folder;
  ASSERT_TRUE(storage::write_daybook(folder / "whole.daybook",
                                     build({{"A1", "2024-01-01", "C1", "P1", 1, 100}}).daybook, kProvenance));
  const std::string whole = read_file(folder / "whole.daybook");
  for (const char* change :
       {"UPDATE about SET value = 'Shop2' WHERE key = 'shop'",
        "UPDATE about SET value = '1x' WHERE key = 'products'",
        "UPDATE about SET value = '0' WHERE key = 'products'", "DELETE FROM about WHERE key = 'products'",
        "UPDATE about SET key = 'producks' WHERE key = 'products'",
        "UPDATE columns SET name = 'x' WHERE position = 1",
        "UPDATE columns SET type = 'text', distinct_texts = 0 WHERE name = 'amount'", "DELETE FROM columns",
        "UPDATE sources SET rows_kept = 8", "UPDATE sources SET source = 'other.csv'",
        "UPDATE sources SET rows_excluded = 3", "UPDATE sources SET run = 2",
        "INSERT INTO import_runs VALUES (1, 'import', 1, 0, 7)", "UPDATE cleaning_counts SET count = 2",
        "DELETE FROM cleaning_counts"}) {
    const std::string path = folder.write("changed.daybook", whole);
    execute(path, change);
    EXPECT_TRUE(open_fault(path).starts_with(path + " is damaged: its "))
        << change << ": " << open_fault(path);
  }
}

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

TEST(DaybookFile, OneWriterAtATimeAndAKilledOnesFileIsReplaced) {
  const TemporaryFolder folder;
  const daybook::Daybook daybook = build({{"A1", "2024-01-01", "C1", "P1", 1, 100}}).daybook;
  folder.write(".shop.daybook.unfinished", "left by a killed import");
  EXPECT_TRUE(storage::write_daybook(folder / "shop.daybook", daybook, {}).has_value());
  EXPECT_EQ(folder.list(), "shop.daybook");
  EXPECT_EQ(storage::write_daybook(folder / "no/shop.daybook", daybook, {}).error().kind, ErrorKind::io);

  auto first = storage::DaybookTarget::lock(folder / "shop.daybook");
  bool has_waited = false;
  const auto second = storage::DaybookTarget::lock(folder / "shop.daybook",
                                                   {std::chrono::seconds(0), [&] { has_waited = true; }});
  ASSERT_FALSE(second.has_value());
  EXPECT_FALSE(has_waited);
  EXPECT_NE(second.error().message.find("another import is writing it"), std::string::npos);
  std::jthread ends_soon([writer = std::move(*first)]() mutable {
    std::this_thread::sleep_for(std::chrono::milliseconds(100));
    EXPECT_TRUE(writer.commit().has_value());
  });
  const auto third = storage::DaybookTarget::lock(folder / "shop.daybook",
                                                  {std::chrono::seconds(60), [&] { has_waited = true; }});
  EXPECT_TRUE(third.has_value());
  EXPECT_TRUE(has_waited);
}

}  // namespace
}  // namespace pear::test
