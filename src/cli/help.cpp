#include "cli/help.hpp"

#include <algorithm>

#include <fmt/format.h>

namespace pear::cli {
namespace {

std::string option_lines(const std::vector<analysis::OptionInfo>& options) {
  const auto heading = [](const analysis::OptionInfo& option) {
    return "--" + option.name + (option.placeholder.empty() ? "" : " " + option.placeholder);
  };
  std::size_t width = 0;
  for (const analysis::OptionInfo& option : options) width = std::max(width, heading(option).size());
  std::string text;
  for (const analysis::OptionInfo& option : options) {
    const std::string otherwise =
        option.default_text.empty() ? "" : fmt::format(" (default: {})", option.default_text);
    text += fmt::format("  {:<{}}  {}{}\n", heading(option), width, option.help, otherwise);
  }
  return text;
}

}  // namespace

std::string general_help() {
  std::string text =
      "Pear Thread analyses sales per customer and plans what to offer whom.\n\n  pear-thread COMMAND "
      "[DAYBOOK] [OPTIONS]\n\nImport your sales once into a daybook. Every question then reads this one file "
      "and writes\ntables and figures. You can omit DAYBOOK if the working folder contains only "
      "one. An intake file in\nits place asks the database that has the lines.\n\nCommands\n";
  std::size_t width = 0;
  for (const Command& command : commands()) width = std::max(width, command.name.size());
  for (const Command& command : commands())
    text += fmt::format("  {:<{}}  {}\n", command.name, width, command.summary);
  text += "\nHelp on a command: pear-thread COMMAND --help\nTo begin: pear-thread demo\n";
  return text;
}

std::string help_of(const Command& command) {
  std::string text =
      fmt::format("pear-thread {} {} [OPTIONS]\n\n{}\n\n", command.name, command.words, command.description);
  if (!command.options.empty()) text += "Options\n" + option_lines(command.options) + "\n";
  text += "Options of every command\n" + option_lines(common_options()) + "\nExamples\n";
  for (const std::string& example : command.examples) text += "  " + example + "\n";
  return text;
}

}  // namespace pear::cli
