// Options of a question, declared once: the command line, help, and the trail all read the declaration.
#pragma once

#include <cstdint>
#include <functional>
#include <limits>
#include <optional>
#include <string>
#include <string_view>
#include <utility>
#include <vector>

#include "base/error.hpp"

namespace pear::analysis {

/// One option as its readers see it.
struct OptionInfo {
  std::string name;          ///< without dashes
  std::string placeholder;   ///< "N"
  std::string default_text;  ///< how the default is shown; empty if the option is off by default
  std::string help;          ///< one line
  bool repeatable = false;
  bool names_file = false;     ///< a table that is read from a file: see SideTable
  bool names_daybook = false;  ///< another daybook to learn from: see DaybookSource

  /// Whether its value is a path.
  [[nodiscard]] bool names_path() const { return names_file || names_daybook; }
};

/// The values from a command line or a study file: names without dashes, and texts.
using OptionValues = std::vector<std::pair<std::string, std::string>>;

/// Reads a whole number of the range. Error: usage, naming the option.
[[nodiscard]] OrError<std::int64_t> parse_whole(std::string_view option, std::string_view text,
                                                std::int64_t lowest, std::int64_t highest);

/// Reads one of the words. Error: usage, with a suggestion.
[[nodiscard]] OrError<std::size_t> parse_word(std::string_view option, std::string_view text,
                                              const std::vector<std::string>& words);

/// One option of the struct Options: its declaration, and how its text is stored in the struct.
template <class Options>
struct OptionDeclaration {
  OptionInfo info;
  std::function<OrError<void>(Options&, std::string_view)> set;
};

template <class Options>
using OptionDeclarations = std::vector<OptionDeclaration<Options>>;

/// A whole number within [lowest, highest], optional or with a default.
template <class Options, class Member>
OptionDeclaration<Options> whole_option(OptionInfo info, Member Options::*member, std::int64_t lowest,
                                        std::int64_t highest) {
  auto set = [name = info.name, member, lowest, highest](Options& options,
                                                         std::string_view text) -> OrError<void> {
    PEAR_ASSIGN(options.*member, parse_whole(name, text, lowest, highest));
    return {};
  };
  return {std::move(info), std::move(set)};
}

/// Any text.
template <class Options>
OptionDeclaration<Options> text_option(OptionInfo info, std::optional<std::string> Options::*member) {
  return {std::move(info), [member](Options& options, std::string_view text) -> OrError<void> {
            options.*member = std::string(text);
            return {};
          }};
}

/// One of an enumeration's words, in the order of its values.
template <class Options, class Enum>
OptionDeclaration<Options> word_option(OptionInfo info, Enum Options::*member,
                                       const std::vector<std::string>& words) {
  auto set = [name = info.name, member, words](Options& options, std::string_view text) -> OrError<void> {
    PEAR_ASSIGN(const std::size_t word, parse_word(name, text, words));
    options.*member = static_cast<Enum>(word);
    return {};
  };
  return {std::move(info), std::move(set)};
}

/// The options with the given values set. Ignores values of options that are not declared: the command line
/// has rejected those already.
template <class Options>
OrError<Options> read_options(const OptionDeclarations<Options>& declarations, const OptionValues& values) {
  Options options;
  for (const auto& [name, text] : values) {
    for (const OptionDeclaration<Options>& declaration : declarations) {
      if (declaration.info.name == name) PEAR_TRY(declaration.set(options, text));
    }
  }
  return options;
}

template <class Options>
std::vector<OptionInfo> infos(const OptionDeclarations<Options>& declarations) {
  std::vector<OptionInfo> all;
  for (const OptionDeclaration<Options>& declaration : declarations) all.push_back(declaration.info);
  return all;
}

}  // namespace pear::analysis
