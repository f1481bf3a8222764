#include <cstdlib>
#include <optional>

#include <gtest/gtest.h>
#include <sys/stat.h>
#include <unistd.h>

#include "files/atomic_file.hpp"
#include "files/inputs.hpp"
#include "files/run_program.hpp"
#include "files/scratch_folder.hpp"
#include "support/temporary_folder.hpp"

namespace pear::test {
namespace {

TEST(AtomicFile, AppearsWholeOrNotAtAll) {
  const TemporaryFolder folder;
  folder.write("table.csv", "old");
  {
    auto file = files::AtomicFile::create(folder / "table.csv");
    ASSERT_TRUE(file->write("half a table") && file->finish());
    EXPECT_EQ(read_file(folder / "table.csv"), "old");
  }
  EXPECT_EQ(folder.list(), "table.csv");
  auto file = files::AtomicFile::create(folder / "table.csv");
  ASSERT_TRUE(file->write("new") && file->commit());
  EXPECT_EQ(read_file(folder / "table.csv"), "new");
}

TEST(AtomicFile, FilesOfASetAppearTogether) {
  const TemporaryFolder folder;
  std::vector<files::AtomicFile> set;
  for (const char* name : {"a.csv", "b.csv"}) {
    set.push_back(std::move(*files::AtomicFile::create(folder / name)));
    ASSERT_TRUE(set.back().write("text").has_value());
  }
  EXPECT_FALSE(std::filesystem::exists(folder / "a.csv"));
  ASSERT_TRUE(files::commit_together(set).has_value());
  EXPECT_EQ(folder.list(), "a.csv b.csv");
}

TEST(AtomicFile, RemovesWhatAKilledProgramLeftButNotWhatIsInUse) {
  const TemporaryFolder folder;
  folder.write(".table.csv.AbCdEf.unfinished", "left");
  folder.write(".profile", "the user's");
  auto in_use = files::AtomicFile::create(folder / "other.csv");
  ASSERT_TRUE(in_use->write("text") && in_use->finish());
  files::remove_leftovers(folder.path());
  EXPECT_FALSE(std::filesystem::exists(folder / ".table.csv.AbCdEf.unfinished"));
  EXPECT_TRUE(std::filesystem::exists(folder / ".profile"));
  EXPECT_TRUE(in_use->commit().has_value());
}

TEST(Inputs, AreNotOverwrittenUnderAnyName) {
  const TemporaryFolder folder;
  const std::string input = folder.write("sales.csv", "text");
  std::filesystem::create_symlink(input, folder / "link.csv");
  std::filesystem::create_hard_link(input, folder / "second-name.csv");
  EXPECT_TRUE(files::check_output(input).has_value()) << "not an input yet";
  files::protect_input(input);
  for (const char* name : {"sales.csv", "link.csv", "second-name.csv", "./sales.csv"}) {
    const auto outcome = files::AtomicFile::create(folder / name);
    ASSERT_FALSE(outcome.has_value()) << name;
    EXPECT_EQ(outcome.error().kind, ErrorKind::usage);
    EXPECT_EQ(outcome.error().message, "cannot write " + folder / name + ": this command reads that file (" +
                                           input + "). Choose another name or folder.");
  }
  EXPECT_EQ(read_file(input), "text");
  EXPECT_TRUE(files::check_output(folder / "new.csv").has_value());
}

TEST(Inputs, OnlyRegularFilesAreOutputs) {
  const TemporaryFolder folder;
  ASSERT_EQ(mkfifo((folder / "pipe").c_str(), 0600), 0);
  std::filesystem::create_symlink("/dev/null", folder / "device");
  for (const std::string& path :
       {folder / "pipe", folder / "device", folder.path(), std::string("/dev/null")}) {
    const auto outcome = files::write_file(path, "text");
    ASSERT_FALSE(outcome.has_value()) << path;
    EXPECT_EQ(outcome.error().message, "cannot write " + path + ": it is not a regular file.");
  }
  EXPECT_TRUE(S_ISCHR([] {
    struct stat file {};
    stat("/dev/null", &file);
    return file.st_mode;
  }()));
}

TEST(RunProgram, EndsAProgramThatHangs) {
  const TemporaryFolder folder;
  const auto run = [&](const std::vector<std::string>& words) {
    return *files::run_program(words, folder.path(), folder / "messages", std::chrono::seconds(1));
  };
  EXPECT_EQ(run({"true"}), files::ProgramEnd::well);
  EXPECT_EQ(run({"false"}), files::ProgramEnd::badly);
  EXPECT_EQ(run({"no-such-program-here"}), files::ProgramEnd::not_found);
  EXPECT_EQ(run({"sleep", "1000"}), files::ProgramEnd::too_slow);
}

TEST(RunProgram, KeepsMessagesAndDistinguishesEnds) {
  const TemporaryFolder folder;
  const auto run = [&](const std::string& script) {
    return *files::run_program({"sh", "-c", script}, folder.path(), folder / "messages",
                               std::chrono::seconds(60));
  };
  EXPECT_EQ(run("pwd; echo wrong >&2"), files::ProgramEnd::well);
  EXPECT_EQ(read_file(folder / "messages"), folder.path() + "\nwrong\n");
  EXPECT_EQ(run("exit 3"), files::ProgramEnd::badly);
  EXPECT_EQ(read_file(folder / "messages"), "") << "those of the last run only";
  EXPECT_EQ(run("kill -9 $$"), files::ProgramEnd::badly);
  EXPECT_EQ(run("exit 127"),
            files::ProgramEnd::not_found);  // what a shell says of a program that does not exist
  const auto nowhere =
      files::run_program({"true"}, folder / "none", folder / "messages", std::chrono::seconds(60));
  EXPECT_TRUE(!nowhere || *nowhere != files::ProgramEnd::well);
}

TEST(ScratchFolder, DisappearsAndSaysIfThereIsNone) {
  const TemporaryFolder folder;
  const std::optional<std::string> before =
      getenv("TMPDIR") == nullptr ? std::nullopt : std::optional<std::string>(getenv("TMPDIR"));
  setenv("TMPDIR", folder.path().c_str(), 1);
  std::filesystem::create_directory(folder / "pear-thread-scratch-AbCdEf");  // of a killed program
  std::filesystem::create_directory(folder / "pear-thread-scratch-of-mine");
  {
    const files::ScratchFolder scratch;
    ASSERT_TRUE(scratch.made());
    EXPECT_TRUE(std::filesystem::is_directory(scratch.path()));
    const files::ScratchFolder second;
    EXPECT_TRUE(std::filesystem::is_directory(scratch.path())) << "it is in use";
    EXPECT_FALSE(std::filesystem::exists(folder / "pear-thread-scratch-AbCdEf"));
  }
  EXPECT_EQ(folder.list(), "pear-thread-scratch-of-mine");
  setenv("TMPDIR", (folder / "missing").c_str(), 1);
  EXPECT_FALSE(files::ScratchFolder().made());
  if (before)
    setenv("TMPDIR", before->c_str(), 1);
  else
    unsetenv("TMPDIR");
}

}  // namespace
}  // namespace pear::test
