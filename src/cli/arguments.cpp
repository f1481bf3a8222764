#include "cli/arguments.hpp"

#include <algorithm>

#include <cxxopts.hpp>
#include <fmt/format.h>

#include "base/text.hpp"
#include "database/address.hpp"

namespace pear::cli {
namespace {

constexpr const char* kWords = "words";

std::vector<analysis::OptionInfo> all_options(const Command& command) {
  std::vector<analysis::OptionInfo> options = command.options;
  options.insert(options.end(), common_options().begin(), common_options().end());
  return options;
}

cxxopts::Options declared(const std::vector<analysis::OptionInfo>& options) {
  cxxopts::Options declared("pear-thread");
  declared.allow_unrecognised_options();
  for (const analysis::OptionInfo& option : options) {
    const auto value = option.placeholder.empty() ? std::shared_ptr<cxxopts::Value>(cxxopts::value<bool>())
                                                  : cxxopts::value<std::string>();
    declared.add_options()(option.name == "help" ? "h,help" : option.name, "", value);
  }
  declared.add_options()(kWords, "", cxxopts::value<std::vector<std::string>>());
  declared.parse_positional({kWords});
  return declared;
}

tl::unexpected<Error> unknown_option(const Command& command, const std::vector<analysis::OptionInfo>& options,
                                     const std::string& word) {
  std::vector<std::string> names;
  for (const analysis::OptionInfo& option : options) names.push_back("--" + option.name);
  const std::string name = word.substr(0, word.find('='));
  return usage_error(fmt::format("{} has no option {}.{} All its options: pear-thread {} --help",
                                 command.name, name, did_you_mean(name, names), command.name));
}

tl::unexpected<Error> missing_value(const Command& command, const std::string& word) {
  return usage_error(
      fmt::format("{} needs a value. See: pear-thread {} --help", in_quotes(word), command.name));
}

/// --option=VALUE as two words, because cxxopts searches every word that is not a value with a regular
/// expression, whose stack grows with the word. Error: usage, for any other word that is longer than a path
/// can be, and for an option in the place of a value.
OrError<std::vector<std::string>> separate_words(const Command& command,
                                                 const std::vector<analysis::OptionInfo>& options,
                                                 const std::vector<std::string>& words) {
  constexpr std::size_t kLongest = 4'096;
  const auto find = [&](std::string_view word) {
    return std::find_if(options.begin(), options.end(),
                        [&](const analysis::OptionInfo& option) { return word == "--" + option.name; });
  };
  const auto is_option = [&](std::string_view word) { return find(word) != options.end(); };
  const auto takes_value = [&](std::string_view word) {
    return is_option(word) && !find(word)->placeholder.empty();
  };
  std::vector<std::string> separate;
  bool is_value = false;
  for (const std::string& word : words) {
    if (is_value && is_option(word)) return missing_value(command, separate.back());
    const std::size_t sign = word.find('=');
    if (!is_value && sign != std::string::npos && takes_value(word.substr(0, sign))) {
      separate.push_back(word.substr(0, sign));
      separate.push_back(word.substr(sign + 1));
      continue;
    }
    if (!is_value && word.size() > kLongest)
      return usage_error(
          fmt::format("{} does not understand a word of {} characters: it is neither an option nor a "
                      "path. See: pear-thread {} --help",
                      command.name, with_thousands(static_cast<std::int64_t>(word.size())), command.name));
    separate.push_back(word);
    is_value = !is_value && takes_value(word);
  }
  return separate;
}

/// Checks each file and database on the command line, before a message shows it.
OrError<void> check_no_passwords(const Arguments& arguments) {
  std::vector<std::string> addresses = arguments.words;
  for (const char* option : {"into", "daybook", "out"})
    for (const std::string& value : arguments.all(option)) addresses.push_back(value);
  for (const std::string& address : addresses) PEAR_TRY(database::check_no_password(address));
  return {};
}

/// A list value (cxxopts splits words at commas otherwise) is kept as it was typed.
OrError<Arguments> collected(const Command& command, const std::vector<analysis::OptionInfo>& options,
                             const cxxopts::ParseResult& parsed) {
  Arguments arguments;
  for (const analysis::OptionInfo& option : options) {
    const std::size_t times = parsed.count(option.name);
    if (option.repeatable) {
      for (const cxxopts::KeyValue& argument : parsed.arguments()) {
        if (argument.key() == option.name) arguments.values.emplace_back(option.name, argument.value());
      }
      continue;
    }
    if (times > 1) return usage_error(fmt::format("--{} is given twice.", option.name));
    if (times == 0) continue;
    const bool is_switch = option.placeholder.empty();
    arguments.values.emplace_back(option.name, is_switch ? "true" : parsed[option.name].as<std::string>());
  }
  for (const cxxopts::KeyValue& argument : parsed.arguments()) {
    if (argument.key() == kWords) arguments.words.push_back(argument.value());
  }
  PEAR_TRY(check_no_passwords(arguments));
  if (arguments.words.size() > command.most_words)
    return usage_error(fmt::format("{} does not understand {}. Usage: pear-thread {} {} [OPTIONS]",
                                   command.name, in_quotes(arguments.words[command.most_words]), command.name,
                                   command.words));
  return arguments;
}

}  // namespace

OrError<Arguments> read_arguments(const Command& command, const std::vector<std::string>& words) {
  const std::vector<analysis::OptionInfo> options = all_options(command);
  PEAR_ASSIGN(const std::vector<std::string> separate, separate_words(command, options, words));
  std::vector<const char*> argv = {"pear-thread"};
  for (const std::string& word : separate) argv.push_back(word.c_str());
  try {
    const auto parsed = declared(options).parse(static_cast<int>(argv.size()), argv.data());
    if (!parsed.unmatched().empty()) return unknown_option(command, options, parsed.unmatched().front());
    return collected(command, options, parsed);
  } catch (const cxxopts::exceptions::missing_argument&) {
    return missing_value(command, words.back());
  } catch (const cxxopts::exceptions::exception& fault) {
    return usage_error(fmt::format("{}. See: pear-thread {} --help", fault.what(), command.name));
  }
}

}  // namespace pear::cli
