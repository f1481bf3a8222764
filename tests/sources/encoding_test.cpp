#include "sources/encoding.hpp"

#include <gtest/gtest.h>
#include <rapidcheck/gtest.h>

#include "support/random_shop.hpp"
#include "support/temporary_folder.hpp"

namespace pear::test {
namespace {

std::string read_text(const std::string& path, std::optional<sources::Encoding> encoding,
                      sources::Encoding* found = nullptr, int piece_bytes = 7) {
  sources::TextSource source = *sources::open_text(path, encoding);
  if (found != nullptr) *found = source.encoding;
  std::string text, piece(static_cast<std::size_t>(piece_bytes), '\0');
  for (;;) {
    const std::size_t count = *source.bytes->read({piece.data(), piece.size()});
    if (count == 0) return text;
    text.append(piece, 0, count);
  }
}

std::string as_utf16(const std::u16string& text, bool big, bool mark) {
  std::string bytes;
  const auto put = [&](char16_t unit) {
    const char low = static_cast<char>(unit & 0xFF), high = static_cast<char>(unit >> 8);
    bytes += big ? high : low;
    bytes += big ? low : high;
  };
  if (mark) put(u'\uFEFF');
  for (const char16_t unit : text) put(unit);
  return bytes;
}

RC_GTEST_PROP(Encodings, AreDetectedAndReadInPiecesOfAnySize, ()) {
  const TemporaryFolder folder;
  std::string utf8 = "order,customer\n", latin;
  std::u16string wide = u"order,customer\n";
  latin = utf8;
  for (int row = 0, rows = pick(3, 60); row < rows; ++row) {
    utf8 += "A1,J\xC3\xB6rrin \xE2\x82\xAC\n";
    latin += "A1,J\xF6rrin \x80\n";
    wide += u"A1,J\u00F6rrin \u20AC\n";
  }
  sources::Encoding found{};
  RC_ASSERT(read_text(folder.write("a", utf8), std::nullopt, &found, pick(1, 70)) == utf8);
  RC_ASSERT(found == sources::Encoding::utf8);
  RC_ASSERT(read_text(folder.write("b", latin), std::nullopt, &found, pick(1, 70)) == utf8);
  RC_ASSERT(found == sources::Encoding::windows_1252);
  const bool big = pick(0, 1) == 1, mark = pick(0, 1) == 1;
  RC_ASSERT(read_text(folder.write("c", as_utf16(wide, big, mark)), std::nullopt, &found, pick(1, 70)) ==
            utf8);
  RC_ASSERT(found == (mark  ? sources::Encoding::utf16
                      : big ? sources::Encoding::utf16_be
                            : sources::Encoding::utf16_le));
}

TEST(Encodings, AFewDamagedBytesDoNotChangeTheDetectedEncoding) {
  const TemporaryFolder folder;
  std::string text;
  for (int i = 0; i < 30; ++i) text += "Th\xC3\xB6rl\n";
  sources::Encoding found{};
  read_text(folder.write("a", text + "\xFF\n"), std::nullopt, &found);
  EXPECT_EQ(found, sources::Encoding::utf8);
  EXPECT_EQ(read_text(folder.write("b", "\xE9\n"), sources::Encoding::iso_8859_1), "\xC3\xA9\n");
  EXPECT_EQ(sources::parse_encoding("windows-1252"), sources::Encoding::windows_1252);
  EXPECT_EQ(sources::parse_encoding("latin"), std::nullopt);
}

/// One byte in ten or more that is no UTF-8 is not damage, but another encoding.
TEST(Encodings, ATenthOfDamageDecides) {
  const auto verdict = [](std::string text, std::size_t piece = 1'000) {
    sources::EncodingWitness witness;
    for (; !text.empty(); text.erase(0, piece)) witness.see(text.substr(0, piece));
    return witness.verdict();
  };
  const auto letters = [](int count) {
    std::string text;
    for (int i = 0; i < count; ++i) text += "\xC3\xB6";
    return text;
  };
  EXPECT_EQ(verdict(letters(11) + "\xFF"), sources::Encoding::utf8);
  EXPECT_EQ(verdict(letters(10) + "\xFF"), sources::Encoding::windows_1252);
  EXPECT_EQ(verdict(letters(11) + "\xC3"), sources::Encoding::utf8);  // cut within a character
  EXPECT_EQ(verdict(letters(10) + "\xC3"), sources::Encoding::windows_1252);
  EXPECT_EQ(verdict(letters(30) + "\xFF", 1), sources::Encoding::utf8);  // pieces cut every character
  EXPECT_EQ(verdict("plain"), sources::Encoding::utf8);
  EXPECT_EQ(verdict(""), sources::Encoding::utf8);
  using namespace std::string_literals;
  EXPECT_EQ(verdict("a\0b\0c\0"s), sources::Encoding::utf16_le);
  EXPECT_EQ(verdict("\0a\0b\0c"s), sources::Encoding::utf16_be);
  EXPECT_EQ(verdict("\0a\0b\0c"s, 1), sources::Encoding::utf16_be);
  EXPECT_EQ(verdict("one zero byte \0 in a text"s), sources::Encoding::utf8);
  EXPECT_EQ(verdict("\xFE\xFF\0a"s, 1), sources::Encoding::utf16);
  EXPECT_EQ(verdict("\xFF\xFE"
                    "a\0"s),
            sources::Encoding::utf16);
}

TEST(Encodings, NamesReadBack) {
  for (const std::string& name : sources::encoding_names()) {
    const auto encoding = sources::parse_encoding(name);
    ASSERT_TRUE(encoding.has_value()) << name;
    EXPECT_EQ(sources::to_text(*encoding), name);
  }
  EXPECT_EQ(sources::parse_encoding("utf_16le"), sources::Encoding::utf16_le);
  EXPECT_EQ(sources::parse_encoding("iso 8859 1"), sources::Encoding::iso_8859_1);
}

}  // namespace
}  // namespace pear::test
