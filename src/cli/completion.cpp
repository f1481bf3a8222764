#include "cli/completion.hpp"

#include <algorithm>
#include <filesystem>

#include "cli/command.hpp"
#include "cli/daybook_argument.hpp"
#include "daybook/columns/derived_columns.hpp"
#include "storage/daybook_reader.hpp"

namespace pear::cli {
namespace {

/// Columns of the daybook that the words name, or of the only one in the folder.
std::vector<std::string> columns_of_daybook(const std::vector<std::string>& words) {
  Arguments arguments;
  for (const std::string& word : words)
    if (word.ends_with(".daybook")) arguments.words = {word};
  const auto path = daybook_path(arguments);
  if (!path) return {};
  const auto file = storage::DaybookFile::open(*path);
  if (!file) return {};
  std::vector<std::string> stored = {std::string(daybook::role::kOrderId),
                                     std::string(daybook::role::kCustomerId),
                                     std::string(daybook::role::kProductId)};
  for (const storage::DaybookInfo::ColumnInfo& column : file->info().columns) stored.push_back(column.name);
  return daybook::known_columns(std::move(stored));
}

/// "first|all|only" as words; nothing if the placeholder is not a list of words.
std::vector<std::string> choices(const std::string& placeholder) {
  std::vector<std::string> words(1);
  for (const char c : placeholder) {
    if (c == '|' || c == ',') {
      words.emplace_back();
    } else if ((c >= 'a' && c <= 'z') || c == '-' || c == '_') {
      words.back() += c;
    } else {
      return {};
    }
  }
  return words;
}

std::vector<std::string> values_of(const analysis::OptionInfo& option,
                                   const std::vector<std::string>& words) {
  for (const char* of_columns : {"COLUMN", "CONDITION", "EXPRESSION", "FIGURE"})
    if (option.placeholder.find(of_columns) != std::string::npos) return columns_of_daybook(words);
  return choices(option.placeholder);
}

const Command* command_named(const std::string& name) {
  const auto found = std::find_if(commands().begin(), commands().end(),
                                  [&](const Command& command) { return command.name == name; });
  return found == commands().end() ? nullptr : &*found;
}

std::vector<analysis::OptionInfo> options_of(const Command& command) {
  std::vector<analysis::OptionInfo> options = command.options;
  options.insert(options.end(), common_options().begin(), common_options().end());
  return options;
}

}  // namespace

std::vector<std::string> completions(const std::vector<std::string>& words) {
  const std::string last = words.empty() ? "" : words.back();
  std::vector<std::string> found;
  const auto offer = [&](const std::string& front, const std::string& begun, const std::string& candidate) {
    if (candidate.starts_with(begun)) found.push_back(front + candidate);
  };
  if (words.size() <= 1) {
    for (const Command& command : commands()) offer("", last, command.name);
    return found;
  }
  const Command* command = command_named(words.front());
  if (command == nullptr) return {};
  const std::string& before = words[words.size() - 2];
  const std::size_t comma = last.rfind(',');  // of a list, only the last value is completed
  const std::size_t begun = comma == std::string::npos ? 0 : comma + 1;
  for (const analysis::OptionInfo& option : options_of(*command)) {
    if (before == "--" + option.name && !option.placeholder.empty()) {
      for (const std::string& value : values_of(option, words))
        offer(last.substr(0, begun), last.substr(begun), value);
      return found;
    }
  }
  if (!last.starts_with('-')) return {};
  for (const analysis::OptionInfo& option : options_of(*command)) {
    const bool is_given = std::find(words.begin(), words.end() - 1, "--" + option.name) != words.end() - 1;
    if (!is_given || option.repeatable) offer("", last, "--" + option.name);
  }
  return found;
}

std::string bash_completion() {
  return R"bash(# Completion of pear-thread in bash. The program itself says what may come next.
_pear_thread() {
  local IFS=$'\n'
  COMPREPLY=($("${COMP_WORDS[0]}" --complete "${COMP_WORDS[@]:1:COMP_CWORD}" 2>/dev/null))
}
complete -o default -F _pear_thread pear-thread
)bash";
}

}  // namespace pear::cli
