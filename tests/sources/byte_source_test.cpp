#include "sources/byte_source.hpp"

#include <cstdlib>

#include <gtest/gtest.h>

#include "support/temporary_folder.hpp"

namespace pear::test {
namespace {

struct Read {
  std::string text;
  std::string fault;
  ErrorKind kind = ErrorKind::internal;
};

Read read_all(const std::string& path) {
  auto source = sources::open_bytes(path);
  if (!source) return {"", source.error().message, source.error().kind};
  Read result;
  std::string block(10'007, '\0');
  for (;;) {
    const auto got = (*source)->read(block);
    if (!got) return {"", got.error().message, got.error().kind};
    if (*got == 0) return result;
    result.text.append(block, 0, *got);
  }
}

class Compressed : public testing::TestWithParam<const char*> {};

/// Plain, gzip, two gzip members in one file, zstd: one conformance test for all.
TEST_P(Compressed, GivesTheSameBytesAndTellsWhenItIsCutShort) {
  const TemporaryFolder folder;
  std::string text;
  for (int i = 0; text.size() < 2'000'000; ++i) text += std::to_string(i * 7919) + ",";
  const std::string plain = folder.write("plain", text);
  const std::string packed = folder / "packed";
  ASSERT_EQ(std::system((std::string(GetParam()) + " <'" + plain + "' >'" + packed + "'").c_str()), 0);
  EXPECT_EQ(read_all(packed).text, text);
  if (std::string(GetParam()) == "cat") return;
  const std::string bytes = read_file(packed);
  const Read cut = read_all(folder.write("cut", bytes.substr(0, bytes.size() / 2)));
  EXPECT_EQ(cut.fault, folder / "cut" + " ends in the middle of its compressed data. Get the file again.");
  EXPECT_EQ(cut.kind, ErrorKind::data);
  std::string flipped = bytes;
  flipped[bytes.size() / 2] = static_cast<char>(flipped[bytes.size() / 2] ^ 0x55);
  EXPECT_FALSE(read_all(folder.write("flipped", flipped)).fault.empty());
}

INSTANTIATE_TEST_SUITE_P(Sources, Compressed,
                         testing::Values("cat", "gzip -c",
                                         "sh -c 'head -c 999999 | gzip -c; tail -c +1 | gzip -c'",
                                         "zstd -q -c --check"));

TEST(Sources, MissingFilesAndFoldersAreNamed) {
  const TemporaryFolder folder;
  EXPECT_EQ(read_all(folder / "none.csv").fault,
            "cannot open " + folder / "none.csv" + ": No such file or directory");
  EXPECT_EQ(read_all(folder / "none.csv").kind, ErrorKind::io);
  EXPECT_EQ(read_all(folder.path()).fault, "cannot read " + folder.path() + ": Is a directory");
}

TEST(Sources, TheSameBytesHaveTheSameHash) {
  const TemporaryFolder folder;
  const auto hash = [&](std::string_view text) {
    auto source = *sources::open_bytes(folder.write("file", text));
    std::string block(3, '\0');
    while (*source->read(block) > 0) {
    }
    return source->content_hash();
  };
  EXPECT_EQ(hash("some sales"), hash("some sales"));
  EXPECT_NE(hash("some sales"), hash("some sale"));
  EXPECT_EQ(hash("some sales").size(), 32U);
}

}  // namespace
}  // namespace pear::test
