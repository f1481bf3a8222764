// Any words after any command: no crash, no hang. Lines are words.
#include <cstdint>
#include <string>
#include <string_view>

#include "base/text.hpp"
#include "cli/arguments.hpp"

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
  using namespace pear;
  if (size == 0) return 0;
  const std::vector<cli::Command>& commands = cli::commands();
  std::vector<std::string> words(1);
  for (const char c : std::string_view(reinterpret_cast<const char*>(data + 1), size - 1)) {
    if (c == '\n')
      words.emplace_back();
    else if (c != '\0')  // ends a word of a command line
      words.back() += c;
  }
  (void)cli::read_arguments(commands[data[0] % commands.size()], words);
  return 0;
}
