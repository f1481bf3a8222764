#include "analysis/options/option.hpp"

#include <algorithm>
#include <charconv>
#include <span>

#include <fmt/format.h>

#include "base/text.hpp"

namespace pear::analysis {

OrError<std::int64_t> parse_whole(std::string_view option, std::string_view text, std::int64_t lowest,
                                  std::int64_t highest) {
  std::int64_t value = 0;
  const auto [end, fault] = std::from_chars(text.data(), text.data() + text.size(), value);
  const bool whole = fault == std::errc() && end == text.data() + text.size();
  if (!whole || value < lowest || value > highest)
    return usage_error(fmt::format("--{} takes a whole number from {} to {}, not {}.", option, lowest,
                                   with_thousands(highest), in_quotes(text)));
  return value;
}

OrError<std::size_t> parse_word(std::string_view option, std::string_view text,
                                const std::vector<std::string>& words) {
  const auto found = std::find(words.begin(), words.end(), text);
  if (found == words.end()) {
    const std::string all_but_last = join(std::span(words).first(words.size() - 1), ", ");
    return usage_error(fmt::format("--{} takes {} or {}, not {}.{}", option, all_but_last, words.back(),
                                   in_quotes(text), did_you_mean(text, words)));
  }
  return static_cast<std::size_t>(found - words.begin());
}

}  // namespace pear::analysis
