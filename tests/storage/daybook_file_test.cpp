#include <chrono>
#include <limits>
#include <thread>

#include <fmt/format.h>
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
