// The table of commands.
#pragma once

#include <functional>
#include <string>
#include <vector>

#include "analysis/options/option.hpp"
#include "base/error.hpp"

namespace pear::cli {

/// The contents of a command line, read according to a command's declaration.
struct Arguments {
  std::vector<std::string> words;  ///< words that are not options, without the command itself
  analysis::OptionValues values;   ///< options with their values; a switch has the value "true"
  [[nodiscard]] const std::string* find(std::string_view option) const;
  [[nodiscard]] std::string value_or(std::string_view option, const std::string& otherwise) const;
  [[nodiscard]] std::vector<std::string> all(std::string_view option) const;  ///< of a repeatable option
  [[nodiscard]] bool has(std::string_view option) const { return find(option) != nullptr; }
};

/// A row of the table. An option without placeholder is a switch.
struct Command {
  std::string name;
  std::string words;  ///< how its words are shown: "[DAYBOOK]"
  std::size_t most_words = 1;
  std::string summary;  ///< one line
  std::string description;
  std::vector<std::string> examples;
  std::vector<analysis::OptionInfo> options;
  std::function<OrError<void>(const Arguments&)> run;
};

[[nodiscard]] const std::vector<Command>& commands();

/// Options that every command has: threads, quiet, verbose, help.
[[nodiscard]] const std::vector<analysis::OptionInfo>& common_options();

/// The whole program: finds the command, reads its options, runs it. Returns the exit code; all messages have
/// been printed.
int run_program_line(const std::vector<std::string>& words);

}  // namespace pear::cli
