// The commands of README.md, docs/first-steps.md and docs/recipes.md, as a reader pastes them.
#include <filesystem>
#include <sstream>

#include "support/demo_program.hpp"
#include "support/other_programs.hpp"

namespace pear::test {
namespace {

/// The lines of code blocks that begin with one of the words.
std::vector<std::string> commands_of(const std::string& page, const std::vector<std::string>& words) {
  std::istringstream text(read_file(page));
  std::vector<std::string> commands;
  std::string line;
  bool in_block = false;
  while (std::getline(text, line)) {
    if (line.starts_with("```")) in_block = !in_block;
    if (line.starts_with("$ ")) line = line.substr(2);
    for (const std::string& word : words)
      if (in_block && line.starts_with(word + " ")) commands.push_back(line);
  }
  return commands;
}

/// The blocks of a page that begin with "$ COMMAND": the command, and what it prints.
std::vector<std::pair<std::string, std::string>> examples_of(const std::string& page) {
  std::istringstream text(read_file(page));
  std::vector<std::pair<std::string, std::string>> examples;
  bool in_block = false;
  for (std::string line; std::getline(text, line);) {
    if (line.starts_with("```"))
      in_block = !in_block;
    else if (in_block && line.starts_with("$ "))
      examples.emplace_back(line.substr(2), "");
    else if (in_block)
      examples.back().second += line + "\n";
  }
  return examples;
}

void run_all(const std::vector<std::string>& commands, const std::string& folder) {
  const std::string path = std::filesystem::path(PEAR_PROGRAM).parent_path().string();
  for (const std::string& command : commands) {
    const OtherRun run =
        run_other("cd '" + folder + "' && export PATH='" + path + "':$PATH && " + command + "\n");
    EXPECT_EQ(run.exit_code, 0) << command << "\n" << run.err;
  }
}

class Readme : public DemoProgram<Readme> {};

TEST_F(Readme, EveryCommandRunsAfterTheDemo) {
  const auto commands = commands_of(PEAR_DOCS "/../README.md", {"pear-thread", "mkdir", "cp"});
  EXPECT_GE(commands.size(), 13U);
  run_all(commands, path("d"));
}

TEST_F(Readme, RecipesPrintWhatTheirPageShows) {
  const auto examples = examples_of(PEAR_DOCS "/recipes.md");
  EXPECT_GE(examples.size(), 20U);
  const std::string program = std::filesystem::path(PEAR_PROGRAM).parent_path().string();
  for (const auto& [command, output] : examples) {
    const OtherRun run = run_other("cd '" + path("d") + "' && export PATH='" + program +
                                   "':$PATH COLUMNS=100 NO_COLOR=1 && " + command + "\n");
    EXPECT_EQ(run.exit_code, 0) << command << "\n" << run.err;
    EXPECT_EQ(run.out, output) << command << "\nIf this is right: scripts/refresh-examples";
  }
}

TEST(FirstSteps, EveryCommandRunsOnTheExampleExports) {
  const TemporaryFolder folder;
  std::filesystem::create_directory(folder / "docs");
  std::filesystem::copy(PEAR_DOCS "/example-exports", folder / "docs/example-exports",
                        std::filesystem::copy_options::recursive);
  auto commands = commands_of(PEAR_DOCS "/first-steps.md", {"pear-thread"});
  ASSERT_EQ(commands.size(), 6U);
  ASSERT_EQ(commands.back(), "pear-thread import shop.toml --append");
  commands.pop_back();  // there is no next month
  run_all(commands, folder.path());
}

}  // namespace
}  // namespace pear::test
