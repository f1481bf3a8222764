#include "cli/command.hpp"

#include <memory>
#include <optional>

#include <fmt/format.h>
#include <spdlog/pattern_formatter.h>
#include <spdlog/sinks/stdout_color_sinks.h>
#include <spdlog/spdlog.h>
#include <tbb/global_control.h>

#include "base/text.hpp"
#include "cli/arguments.hpp"
#include "cli/ask.hpp"
#include "cli/commands/demo.hpp"
#include "cli/commands/export.hpp"
#include "cli/commands/import.hpp"
#include "cli/commands/inspect.hpp"
#include "cli/commands/status.hpp"
#include "cli/commands/study.hpp"
#include "cli/completion.hpp"
#include "cli/help.hpp"
#include "cli/manual.hpp"
#include "cli/terminal.hpp"
#include "output/tables/readable.hpp"
#include "questions/all_questions.hpp"

namespace pear::cli {
namespace {

constexpr const char* kVersion = PEAR_VERSION;

/// The text of a message, which may contain names from the data, without characters that command a terminal.
class SafeText final : public spdlog::custom_flag_formatter {
 public:
  void format(const spdlog::details::log_msg& message, const std::tm& /*time*/,
              spdlog::memory_buf_t& into) override {
    const std::string text =
        output::without_controls({message.payload.data(), message.payload.size()}, "\n\t");
    into.append(text.data(), text.data() + text.size());
  }
  [[nodiscard]] std::unique_ptr<custom_flag_formatter> clone() const override {
    return std::make_unique<SafeText>();
  }
};

/// Messages go to standard error as "pear-thread: warning: ..."; only results go to standard output.
void set_up_messages(bool quiet, bool verbose) {
  auto logger = spdlog::stderr_color_st("pear-thread");
  auto formatter = std::make_unique<spdlog::pattern_formatter>();
  formatter->add_flag<SafeText>('*').set_pattern("%n: %l: %*");
  logger->set_formatter(std::move(formatter));
  logger->set_level(verbose ? spdlog::level::debug : quiet ? spdlog::level::warn : spdlog::level::info);
  spdlog::set_default_logger(std::move(logger));
}

int fail(const Error& error) {
  spdlog::error("{}", error.message);
  return static_cast<int>(error.kind);
}

const Command* find_command(std::string_view name) {
  for (const Command& command : commands()) {
    if (command.name == name) return &command;
  }
  return nullptr;
}

/// The data for the manual page and the shell's completion; not for people.
std::optional<std::string> text_for_a_package(const std::vector<std::string>& words) {
  if (words.front() == "--manual") return manual_page();
  if (words.front() == "--bash-completion") return bash_completion();
  if (words.front() != "--complete") return std::nullopt;
  std::string lines;
  for (const std::string& word : completions({words.begin() + 1, words.end()})) lines += word + "\n";
  return lines;
}

Error unknown_command(const std::string& name) {
  std::vector<std::string> names;
  for (const Command& command : commands()) names.push_back(command.name);
  return {ErrorKind::usage, fmt::format("there is no command {}.{} All commands: pear-thread --help",
                                        in_quotes(name), did_you_mean(name, names))};
}

OrError<void> run_command(const Command& command, const Arguments& arguments) {
  std::optional<tbb::global_control> limit;
  if (const std::string* threads = arguments.find("threads")) {
    PEAR_ASSIGN(const std::int64_t count, analysis::parse_whole("threads", *threads, 1, 1024));
    limit.emplace(tbb::global_control::max_allowed_parallelism, static_cast<std::size_t>(count));
  }
  try {
    return command.run(arguments);
  } catch (const std::bad_alloc&) {
    return io_error("there is not enough memory for this.");
  } catch (const std::exception& defect) {
    if (std::string_view(defect.what()).find("pthread_create") != std::string_view::npos)
      return io_error("the system allows no more threads. Use --threads 1, or raise its limit.");
    return internal_error(
        fmt::format("{}. This is a defect of pear-thread; please report it.", defect.what()));
  }
}

int run_words(const std::vector<std::string>& words) {
  const std::string first = words.empty() ? "" : words.front();
  if (first.empty() || first == "--help" || first == "-h" || first == "help") {
    if (words.size() == 2 && first == "help") return run_words({words.back(), "--help"});
    print(general_help());
    return first.empty() ? static_cast<int>(ErrorKind::usage) : 0;
  }
  if (first == "--version") {
    print(fmt::format("pear-thread {}\n", kVersion));
    return 0;
  }
  if (const auto text = text_for_a_package(words)) {
    print(*text);
    return 0;
  }
  const Command* command = find_command(first);
  set_up_messages(false, false);
  if (command == nullptr) return fail(unknown_command(first));
  auto arguments = read_arguments(*command, {words.begin() + 1, words.end()});
  if (!arguments) return fail(arguments.error());
  spdlog::drop_all();
  set_up_messages(arguments->has("quiet"), arguments->has("verbose"));
  if (arguments->has("help")) {
    print(help_of(*command));
    return 0;
  }
  const auto outcome = run_command(*command, *arguments);
  return outcome ? 0 : fail(outcome.error());
}

}  // namespace

const std::string* Arguments::find(std::string_view option) const {
  for (const auto& [name, value] : values) {
    if (name == option) return &value;
  }
  return nullptr;
}

std::vector<std::string> Arguments::all(std::string_view option) const {
  std::vector<std::string> found;
  for (const auto& [name, value] : values) {
    if (name == option) found.push_back(value);
  }
  return found;
}

std::string Arguments::value_or(std::string_view option, const std::string& otherwise) const {
  const std::string* value = find(option);
  return value == nullptr ? otherwise : *value;
}

const std::vector<Command>& commands() {
  static const std::vector<Command> kTable = [] {
    std::vector<Command> table = {demo_command(), inspect_command(), import_command(), status_command(),
                                  export_command()};
    for (const analysis::Question& question : questions::all_questions())
      table.push_back(question_command(question));
    table.push_back(study_command());
    return table;
  }();
  return kTable;
}

const std::vector<analysis::OptionInfo>& common_options() {
  static const std::vector<analysis::OptionInfo> kOptions = {
      {"threads", "N", "all cores", "how many threads to use; the result does not depend on it"},
      {"quiet", "", "", "print only warnings and errors"},
      {"verbose", "", "", "print how long each step takes"},
      {"help", "", "", "show this help"}};
  return kOptions;
}

int run_program_line(const std::vector<std::string>& words) {
  const int code = run_words(words);
  const auto output = finish_output();
  return code == 0 && !output ? fail(output.error()) : code;
}

}  // namespace pear::cli
