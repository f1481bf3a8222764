// The manual page, read as roff.
#include "cli/manual.hpp"

#include <sstream>

#include <absl/strings/str_replace.h>
#include <gtest/gtest.h>

#include "cli/command.hpp"

namespace pear::test {
namespace {

/// A line without its escapes and fonts (groff_man(7)).
std::string shown(const std::string& line) {
  return absl::StrReplaceAll(
      line, {{"\\fB", ""}, {"\\fI", ""}, {"\\fR", ""}, {"\\-", "-"}, {"\\e", "\\"}, {"\\&", ""}});
}

/// What a reader sees: a heading, the lines of a paragraph, an item with its text below.
std::string read_roff(const std::string& page) {
  std::istringstream lines(page);
  std::string text;
  for (std::string line; std::getline(lines, line);) {
    EXPECT_NE(line.substr(0, 1), "'") << line;
    if (line.starts_with(".SH ")) {
      text += "# " + shown(line.substr(4)) + "\n";
    } else if (line.starts_with(".TP")) {
      text += "- ";
    } else if (!line.starts_with('.')) {
      text += shown(line) + "\n";
    } else {
      EXPECT_TRUE(line == ".PP" || line == ".nf" || line == ".fi" || line.starts_with(".TH ")) << line;
    }
  }
  return text;
}

std::string expected_options(const std::vector<analysis::OptionInfo>& options) {
  std::string text;
  for (const analysis::OptionInfo& option : options) {
    text += "- --" + option.name + (option.placeholder.empty() ? "" : " " + option.placeholder) + "\n" +
            option.help;
    text += (option.default_text.empty() ? "" : " (default: " + option.default_text + ")") + "\n";
  }
  return text;
}

TEST(ManualPage, DescribesEveryOptionOfEveryCommand) {
  const std::string page = read_roff(cli::manual_page());
  std::size_t from = page.find("# OPTIONS OF EVERY COMMAND\n" + expected_options(cli::common_options()));
  ASSERT_NE(from, std::string::npos);
  for (const cli::Command& command : cli::commands()) {
    std::string expected = "# " + command.name + "\npear-thread " + command.name + " " + command.words +
                           " [OPTIONS]\n" + command.description + "\n" + expected_options(command.options) +
                           "Examples:\n";
    for (const std::string& example : command.examples) expected += "  " + example + "\n";
    const std::size_t at = page.find(expected, from);
    ASSERT_NE(at, std::string::npos) << expected;
    from = at + 1;
  }
  EXPECT_NE(page.find("# EXIT STATUS\n- 0\ndone\n- 1\ninternal error or failed check\n- 2\nwrong usage\n- "
                      "3\nbad input or data\n- 4\n"
                      "cannot read or write\n# ENVIRONMENT\n"),
            std::string::npos);
}

}  // namespace
}  // namespace pear::test
