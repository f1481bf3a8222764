// Keys of TOML tables: what each getter reads, and how mistakes are reported.
#include "files/toml_section.hpp"

#include <fmt/format.h>
#include <gtest/gtest.h>

#include "base/text.hpp"

namespace pear::test {
namespace {

/// What `use` reads from a section [s] that begins on line 1, or the fault.
template <class Use>
std::string read(const std::string& text, Use use) {
  const auto table = files::parse_toml("[s]\n" + text, "f.toml");
  if (!table) return table.error().message;
  files::TomlSection section(*(*table)["s"].as_table(), "[s]", "f.toml");
  const std::string all = use(section);
  const auto outcome = section.finish();
  return outcome ? all : outcome.error().message;
}

std::string texts(const std::string& text) {
  return read(text, [](files::TomlSection& section) { return join(section.texts("key"), "|"); });
}
std::string scalars(const std::string& text) {
  return read(text, [](files::TomlSection& section) { return join(section.scalars("key"), "|"); });
}
std::string numbers(const std::string& text) {
  return read(text, [](files::TomlSection& section) { return join(section.numbers("key"), "|"); });
}

TEST(TomlSection, GettersReadTheirTypes) {
  EXPECT_EQ(texts("key = \"a\""), "a");
  EXPECT_EQ(texts("key = [\"a\", \"b\"]"), "a|b");
  EXPECT_EQ(texts("key = []"), "");
  EXPECT_EQ(texts(""), "");
  const std::string no_texts =
      "f.toml, line 2: [s] key: expected a text in quotes, or several as [\"...\", \"...\"].";
  for (const char* text : {"key = 5", "key = [\"a\", 5]", "key = true", "key = {a = 1}"})
    EXPECT_EQ(texts(text), no_texts) << text;
  EXPECT_EQ(scalars("key = [1, 2.5, \"x\", true, 2024-02-29]"), "1|2.5|x|true|2024-02-29");
  EXPECT_EQ(scalars("key = 7"), "7");
  EXPECT_EQ(scalars("key = {a = 1}"),
            "f.toml, line 2: [s] key: expected a text, a number, a date, true or false, or a list of these.");
  EXPECT_EQ(scalars("key = [[1], 2]"),
            "f.toml, line 2: [s] key: expected a text, a number, a date, true or false, or a list of these.");
  EXPECT_EQ(numbers("key = [1, -6, 2.5]"), "1|-6|2.5");
  EXPECT_EQ(numbers(""), "");
  for (const char* text : {"key = 5", "key = [1, \"2\"]"})
    EXPECT_EQ(numbers(text), "f.toml, line 2: [s] key: expected a list of numbers, such as [1, 6, 24].")
        << text;
  const auto optional = [](const std::string& text) {
    return read(text, [](files::TomlSection& section) {
      std::string all = section.optional_text("key").value_or("none");
      return all += section.text("other");
    });
  };
  EXPECT_EQ(optional("key = \"a\"\nother = \"b\""), "ab");
  EXPECT_EQ(optional(""), "none");
  EXPECT_EQ(optional("\nkey = 1\nother = 2"), "f.toml, line 3: [s] key: expected a text in quotes.")
      << "the first fault";
  const auto truth = [](const std::string& text) {
    return read(text, [](files::TomlSection& section) {
      std::vector<std::string> names = {"before"};
      const bool is_true = section.truth_or_texts("key", names);
      return fmt::format("{} {}", is_true, join(names, "|"));
    });
  };
  EXPECT_EQ(truth("key = true"), "true before");
  EXPECT_EQ(truth("key = false"), "false before");
  EXPECT_EQ(truth("key = [\"a\"]"), "false a");
  EXPECT_EQ(truth(""), "false ");
}

TEST(TomlSection, UnknownKeysAreFaultsWithASuggestion) {
  const auto three = [](const std::string& text) {
    return read(text, [](files::TomlSection& section) {
      std::string all = section.text("file");
      all += section.text("sheet");
      return all + (section.has("file") ? "+" : "-");
    });
  };
  EXPECT_EQ(three("file = \"a\""), "a+");
  EXPECT_EQ(three("\nfle = \"a\""),
            "f.toml, line 3: [s] has no key \"fle\". Did you mean \"file\"? Its keys: file, sheet.");
  EXPECT_EQ(three("zzz = 1"), "f.toml, line 2: [s] has no key \"zzz\". Its keys: file, sheet.");
  EXPECT_EQ(
      three("file = "),
      "f.toml, line 2: this is not valid TOML: Error while parsing key-value pair: encountered end-of-file");
}

TEST(TomlSection, TablesWithinHaveTheirOwnNames) {
  const auto within = [](const std::string& text) {
    return read(text, [](files::TomlSection& section) {
      std::string all;
      section.within("from", [&](files::TomlSection& inner) {
        all += inner.text("file") + ";";
        inner.within("columns", [&](files::TomlSection& columns) {
          columns.each_other([&](const std::string& key, const std::vector<std::string>& values) {
            all += key + "=" + join(values, "|") + ",";
          });
        });
      });
      return all;
    });
  };
  EXPECT_EQ(within("from = {file = \"a\"}"), "a;");
  EXPECT_EQ(within("[[s.from]]\nfile = \"a\"\n[s.from.columns]\nz = \"Z\"\na = [\"A\", "
                   "\"B\"]\n[[s.from]]\nfile = \"b\""),
            "a;z=Z,a=A|B,b;")
      << "in the order of the file";
  EXPECT_EQ(within("from = 5"), "f.toml, line 2: [s] from: expected a table [s.from].");
  EXPECT_EQ(within("from = [1]"), "f.toml, line 2: [s] from: expected a table [s.from].");
  EXPECT_EQ(within("[[s.from]]\nfile = 1"), "f.toml, line 3: [[s.from]] file: expected a text in quotes.");
  EXPECT_EQ(within("[s.from]\nfile = 1"), "f.toml, line 3: [s.from] file: expected a text in quotes.");
  EXPECT_EQ(within("[[s.from]]\ncolumns = 1"),
            "f.toml, line 3: [[s.from]] columns: expected a table [s.from.columns].");
  EXPECT_EQ(
      within("[[s.from]]\n[s.from.columns]\na = 1"),
      "f.toml, line 4: [s.from.columns] a: expected a text in quotes, or several as [\"...\", \"...\"].");
  const auto sections = [](const std::string& text) {
    return read(text, [](files::TomlSection& section) {
      std::string all = section.text("file");
      section.each_other_section(
          [&](const std::string& name, files::TomlSection& inner) { all += name + inner.text("x"); });
      return all;
    });
  };
  EXPECT_EQ(sections("file = \"f\"\n[s.one]\nx = \"1\"\n[s.two]\nx = \"2\""), "fone1two2");
  EXPECT_EQ(sections("[s.one]\nyyy = \"1\""), "f.toml, line 3: [s.one] has no key \"yyy\". Its keys: x.");
}

}  // namespace
}  // namespace pear::test
