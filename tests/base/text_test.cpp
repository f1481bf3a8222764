#include "base/text.hpp"

#include <algorithm>

#include <gtest/gtest.h>
#include <rapidcheck/gtest.h>

#include "base/text_array.hpp"

namespace pear {
namespace {

/// The edit distance by its definition.
std::size_t distance_slowly(std::string_view a, std::string_view b) {
  if (a.empty() || b.empty()) return a.size() + b.size();
  const std::size_t same = distance_slowly(a.substr(1), b.substr(1)) + (a[0] == b[0] ? 0 : 1);
  return std::min({same, distance_slowly(a.substr(1), b) + 1, distance_slowly(a, b.substr(1)) + 1});
}

RC_GTEST_PROP(Text, SuggestsTheFirstOfTheClosestNames, ()) {
  const auto word =
      rc::gen::resize(6, rc::gen::container<std::string>(rc::gen::elementOf(std::string("aabc_"))));
  const std::string name = *word;
  const auto candidates = *rc::gen::resize(4, rc::gen::container<std::vector<std::string>>(word));
  std::optional<std::string> expected;
  std::size_t least = 0;
  for (const std::string& each : candidates) {
    const std::string a = snake_case(name), b = snake_case(each);
    const std::size_t distance = distance_slowly(a, b);
    if (distance > std::max<std::size_t>(1, std::max(a.size(), b.size()) / 3)) continue;
    if (expected && least <= distance) continue;
    expected = each;
    least = distance;
  }
  RC_ASSERT(nearest_name(name, candidates) == expected);
}

/// Names consist of words without separators at the ends; a name of a name is itself.
RC_GTEST_PROP(Text, NamesOfColumnsAreWords, ()) {
  const auto text = *rc::gen::container<std::string>(rc::gen::elementOf(std::string("aB9 _-./\xC3\xA9\t")));
  const std::string name = snake_case(text);
  RC_ASSERT(snake_case(name) == name);
  RC_ASSERT(name.empty() || (name.front() != '_' && name.back() != '_'));
  RC_ASSERT(name.find("__") == std::string::npos);
  std::string letters, of_name;
  const auto is_letter = [](char c) {
    return std::isalnum(static_cast<unsigned char>(c)) != 0 || static_cast<unsigned char>(c) >= 0x80;
  };
  for (const char c : text)
    if (is_letter(c)) letters += static_cast<char>(c >= 'A' && c <= 'Z' ? c + 32 : c);
  for (const char c : name)
    if (c != '_') of_name += c;
  RC_ASSERT(of_name == letters);
}

TEST(Text, SplitsAndJoins) {
  using Texts = std::vector<std::string>;
  EXPECT_EQ(comma_separated("a,b,,c"), (Texts{"a", "b", "", "c"}));
  EXPECT_EQ(comma_separated(""), Texts{""});
  EXPECT_EQ(join(Texts{"a", "b", "c"}, " / "), "a / b / c");
  EXPECT_EQ(join(Texts{}, ", "), "");
  EXPECT_EQ(without_space_at_end(" a b \t\r\n"), " a b");
  EXPECT_EQ(without_space_at_end("  "), "");
}

TEST(Text, CutsLongValuesBetweenCharacters) {
  const std::string sixty(60, 'x');
  EXPECT_EQ(in_quotes(sixty), "\"" + sixty + "\"");
  EXPECT_EQ(in_quotes(sixty + "y"), "\"" + sixty + "...\"");
  const std::string before(59, 'x');
  EXPECT_EQ(in_quotes(before + "\xC3\xA9y"), "\"" + before + "...\"");  // the character would be cut
  EXPECT_EQ(in_quotes(before.substr(1) + "\xC3\xA9y"), "\"" + before.substr(1) + "\xC3\xA9...\"");
  EXPECT_EQ(in_quotes(std::string("a\0b\x7F", 4)), "\"a\\x00b\\x7f\"");
  EXPECT_EQ(in_quotes(""), "\"\"");
}

TEST(Text, CountsInWords) {
  EXPECT_EQ(counted(0, "line"), "0 lines");
  EXPECT_EQ(counted(1, "line is", "lines are"), "1 line is");
  EXPECT_EQ(counted(1'000, "line"), "1,000 lines");
  EXPECT_EQ(with_thousands(std::int64_t{999}), "999");
  EXPECT_EQ(with_thousands(std::int64_t{1'000}), "1,000");
  EXPECT_EQ(with_thousands(std::int64_t{-999}), "-999");
  EXPECT_EQ(with_thousands(std::int64_t{-1'000}), "-1,000");
}

RC_GTEST_PROP(TextArray, JoinsPicksAndCutsTexts, (const std::vector<std::vector<std::string>>& parts)) {
  std::vector<TextArray> arrays;
  std::vector<std::string> all;
  for (const auto& part : parts) {
    arrays.emplace_back();
    for (const std::string& text : part) arrays.back().push_back(text), all.push_back(text);
  }
  const TextArray joined = TextArray::joined(arrays);
  RC_ASSERT(joined.size() == all.size());
  RC_ASSERT(joined.empty() == all.empty());
  std::string bytes;
  std::vector<std::uint32_t> lengths, positions;
  for (std::size_t i = 0; i < all.size(); ++i) {
    RC_ASSERT(joined[i] == all[i]);
    bytes += all[i];
    lengths.push_back(static_cast<std::uint32_t>(all[i].size()));
    positions.push_back(static_cast<std::uint32_t>(all.size() - 1 - i));
  }
  RC_ASSERT(TextArray::of_lengths(bytes, lengths) == joined);
  const TextArray reversed = joined.picked(positions);
  for (std::size_t i = 0; i < all.size(); ++i) RC_ASSERT(reversed[i] == all[all.size() - 1 - i]);
}

}  // namespace
}  // namespace pear
