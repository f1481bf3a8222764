#include "files/scratch_file.hpp"

#include <gtest/gtest.h>
#include <rapidcheck/gtest.h>

#include "support/temporary_folder.hpp"

namespace pear::test {
namespace {

/// Any bytes are read again at the place that append() gave, in any order.
RC_GTEST_PROP(ScratchFile, ReadsAgainWhatWasAppended, (const std::vector<std::string>& texts)) {
  const TemporaryFolder folder;
  auto file = files::ScratchFile::create(folder / "scratch");
  RC_ASSERT(file.has_value());
  std::vector<std::uint64_t> places;
  std::string all;
  for (const std::string& text : texts) {
    RC_ASSERT(*file->append(text) == all.size());
    places.push_back(all.size());
    all += text;
  }
  files::ScratchFile moved = std::move(*file);
  for (std::size_t i = texts.size(); i-- > 0;) RC_ASSERT(*moved.read(places[i], texts[i].size()) == texts[i]);
  RC_ASSERT(read_file(folder / "scratch") == all);
}

TEST(ScratchFile, SaysWhatCannotBeWrittenOrRead) {
  const TemporaryFolder folder;
  const auto missing = files::ScratchFile::create(folder / "none/scratch");
  ASSERT_FALSE(missing);
  EXPECT_EQ(missing.error().kind, ErrorKind::io);
  EXPECT_EQ(missing.error().message, "cannot write " + (folder / "none/scratch") +
                                         ": No such file or directory. TMPDIR chooses another folder for "
                                         "intermediate files.");
  auto file = files::ScratchFile::create(folder / "scratch");
  ASSERT_TRUE(file->append("abc"));
  EXPECT_EQ(*file->read(1, 2), "bc");
  EXPECT_FALSE(file->read(1, 3)) << "the file ends before";
  EXPECT_FALSE(files::ScratchFile::create(folder / "scratch")) << "it exists already";
}

}  // namespace
}  // namespace pear::test
