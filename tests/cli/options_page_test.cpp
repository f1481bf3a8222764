// docs/options.md lists every option of every command, and nothing else.
#include <fstream>
#include <map>
#include <set>
#include <sstream>

#include <gtest/gtest.h>

#include "cli/command.hpp"
#include "questions/all_questions.hpp"

namespace pear::test {
namespace {

/// By command: "--where CONDITION", ...
using Options = std::map<std::string, std::set<std::string>>;

Options declared_options() {
  Options options;
  for (const cli::Command& command : cli::commands())
    for (const analysis::OptionInfo& option : command.options)
      options[command.name].insert("--" + option.name +
                                   (option.placeholder.empty() ? "" : " " + option.placeholder));
  return options;
}

std::vector<std::string> cells_of_row(const std::string& line) {
  std::vector<std::string> cells;
  std::string cell;
  for (std::size_t i = 1; i < line.size(); ++i) {
    if (line[i] == '\\' && i + 1 < line.size()) {
      cell += line[++i];
    } else if (line[i] == '|') {
      cells.push_back(cell.substr(1, cell.size() - 2));
      cell.clear();
    } else {
      cell += line[i];
    }
  }
  return cells;
}

void add_commands(const std::string& text, const std::string& option, Options& options) {
  std::istringstream list(text);
  for (std::string name; std::getline(list, name, ',');) {
    name.erase(0, name.find_first_not_of(' '));
    const std::string kAll = "all questions";
    if (!name.starts_with(kAll)) {
      options[name].insert(option);
      continue;
    }
    for (const analysis::Question& question : questions::all_questions())
      if (!name.ends_with(" except " + question.name)) options[question.name].insert(option);
  }
}

Options documented_options() {
  std::ifstream page(std::string(PEAR_DOCS) + "/options.md");
  Options options;
  bool is_table = false;
  for (std::string line; std::getline(page, line);) {
    if (line.starts_with("| option | commands")) is_table = true;
    if (line.empty()) is_table = false;
    if (!is_table || !line.starts_with("| `--") || line.find("every command") != std::string::npos) continue;
    const std::vector<std::string> cells = cells_of_row(line);
    add_commands(cells[1], cells[0].substr(1, cells[0].size() - 2), options);
  }
  return options;
}

TEST(OptionsPage, ListsTheOptionsOfEveryCommand) { EXPECT_EQ(documented_options(), declared_options()); }

}  // namespace
}  // namespace pear::test
