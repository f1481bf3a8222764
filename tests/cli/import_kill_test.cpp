// kill -9 at any time of an import leaves the old daybook readable and complete.
#include <chrono>
#include <csignal>
#include <thread>

#include <gtest/gtest.h>

#include "storage/daybook_reader.hpp"
#include "support/made_up_shop.hpp"
#include "support/run_program.hpp"

namespace pear::test {
namespace {

/// In memory, or sorted on disk.
std::vector<std::string> import_words(bool on_disk) {
  std::vector<std::string> words = {"import", "demo/shop.toml", "--daybook", "shop.daybook", "--replace"};
  if (on_disk) words.insert(words.end(), {"--memory", "200MB"});
  return words;
}

TEST(Import, KilledAtAnyMomentLeavesTheOldDaybookOrTheNewOne) {
  const TemporaryFolder folder;
  folder.write("old.csv",
               "order_id,order_date,customer_id,product_id,quantity,unit_price\nA1,2024-01-01,C1,P1,1,2\n");
  make_shop_files(folder, "demo", 200'000);
  const std::string old_fingerprint = [&] {
    EXPECT_EQ(run_pear(folder, {"import", "old.csv", "--daybook", "shop.daybook"}).exit_code, 0);
    return storage::DaybookFile::open(folder / "shop.daybook")->info().fingerprint;
  }();
  const std::string new_fingerprint =
      storage::DaybookFile::open(folder / "demo/thistledown.daybook")->info().fingerprint;
  int killed = 0;
  int finished = 0;
  for (int milliseconds = 1; finished == 0 && milliseconds < 60'000; milliseconds += 1 + milliseconds / 6) {
    const pid_t import = start_pear(folder, import_words(milliseconds % 2 == 0));
    std::this_thread::sleep_for(std::chrono::milliseconds(milliseconds));
    kill(import, SIGKILL);
    const bool was_killed = exit_code_of(import) != 0;
    (was_killed ? killed : finished) += 1;
    auto file = storage::DaybookFile::open(folder / "shop.daybook");
    ASSERT_TRUE(file.has_value()) << file.error().message;
    ASSERT_TRUE(file->verify().has_value());
    const std::string& found = file->info().fingerprint;
    ASSERT_TRUE(found == new_fingerprint || (found == old_fingerprint && was_killed)) << milliseconds;
  }
  EXPECT_GE(killed, 10);
  EXPECT_EQ(finished, 1) << "files left by killed imports do not block the next one";
  EXPECT_EQ(folder.list(), "demo old.csv shop-import shop.daybook");
  for (const auto& run : std::filesystem::directory_iterator(folder / "shop-import")) {
    EXPECT_TRUE(std::filesystem::exists(run.path() / "import.md")) << run.path();
    for (const auto& entry : std::filesystem::directory_iterator(run.path()))
      EXPECT_FALSE(entry.path().filename().string().starts_with(".")) << entry.path();
  }
}

}  // namespace
}  // namespace pear::test
