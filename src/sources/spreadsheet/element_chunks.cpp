#include "sources/spreadsheet/element_chunks.hpp"

#include <algorithm>

#include <fmt/format.h>

namespace pear::sources {
namespace {

constexpr std::size_t kChunk = std::size_t{1} << 18U;
constexpr std::size_t kLargestElement = std::size_t{64} << 20U;
constexpr std::string_view kNameEnds = " />\t\r\n";

/// After the end of the last whole element; 0 if there is none.
std::size_t end_of_last(std::string_view xml, std::string_view name) {
  const std::string closing = fmt::format("</{}>", name);
  const std::size_t closed = xml.rfind(closing);
  std::size_t end = closed == std::string_view::npos ? 0 : closed + closing.size();
  for (std::size_t at = end;
       (at = find_element(xml, name, at)) != std::string_view::npos;) {  // <row/> may follow
    const std::size_t bracket = xml.find('>', at);
    if (bracket == std::string_view::npos || xml[bracket - 1] != '/') break;
    end = at = bracket + 1;
  }
  return end;
}

/// Where the first element begins that has this name, whatever its prefix; npos if none does.
std::size_t find_any_prefix(std::string_view xml, std::string_view name) {
  for (std::size_t at = 0; (at = xml.find('<', at)) != std::string_view::npos; ++at) {
    const std::size_t end = xml.find_first_of(kNameEnds, at + 1);
    if (end == std::string_view::npos) break;
    const std::string_view whole = xml.substr(at + 1, end - at - 1);
    if (whole.substr(whole.find(':') + 1) == name) return at;
  }
  return std::string_view::npos;
}

}  // namespace

std::size_t find_element(std::string_view xml, std::string_view name, std::size_t from) {
  for (std::size_t at = from; (at = xml.find('<', at)) != std::string_view::npos; ++at) {
    const std::string_view rest = xml.substr(at + 1, name.size() + 1);
    const bool is_it = rest.size() > name.size() && rest.starts_with(name);
    if (is_it && kNameEnds.find(rest.back()) != std::string_view::npos) return at;
  }
  return std::string_view::npos;
}

OrError<bool> ElementChunks::read_more() {
  if (ended_) return false;
  const std::size_t before = buffer_.size();
  buffer_.resize(before + kChunk);
  PEAR_ASSIGN(const std::size_t count, member_.read({buffer_.data() + before, kChunk}));
  buffer_.resize(before + count);
  ended_ = count == 0;
  return count > 0;
}

OrError<void> ElementChunks::read_rest() {
  buffer_.resize(kChunk);
  for (std::size_t count = 1; count > 0;) {
    PEAR_ASSIGN(count, member_.read(buffer_));
  }
  buffer_.clear();
  return {};
}

void ElementChunks::cut_at_end() {
  if (const std::size_t end = buffer_.find(end_, end_searched_); end != std::string::npos) {
    buffer_.resize(end);
    ended_ = true;
  }
  end_searched_ = buffer_.size() - std::min(buffer_.size(), end_.size());
}

OrError<std::optional<std::string>> ElementChunks::next_tag(std::string_view name) {
  for (;;) {
    const std::size_t begin = find_any_prefix(buffer_, name);
    const std::size_t bracket = begin == std::string::npos ? begin : buffer_.find('>', begin);
    if (bracket != std::string::npos) {
      std::string tag = buffer_.substr(begin, bracket + 1 - begin);
      buffer_.erase(0, bracket + 1);
      return tag;
    }
    // The tag may begin at the end of the buffer.
    buffer_.erase(0, std::min(begin, buffer_.rfind('<')));
    PEAR_ASSIGN(const bool more, read_more());
    if (!more) return std::nullopt;
  }
}

OrError<bool> ElementChunks::enter(std::string_view parent, std::string_view child, std::size_t count) {
  std::optional<std::string> tag;
  for (std::size_t i = 0; i < count; ++i) {
    PEAR_ASSIGN(tag, next_tag(parent));
    if (!tag) return false;
  }
  const std::size_t colon = std::min(tag->find(':'), tag->find_first_of(kNameEnds));
  const std::string prefix = (*tag)[colon] == ':' ? tag->substr(1, colon) : "";
  name_ = prefix + std::string(child);
  end_ = fmt::format("</{}{}>", prefix, parent);
  if (tag->ends_with("/>")) {
    buffer_.clear();
    ended_ = true;
  }
  cut_at_end();
  return true;
}

OrError<std::optional<std::string>> ElementChunks::next() {
  for (;;) {
    const std::size_t first = find_element(buffer_, name_, 0);
    const bool is_enough = buffer_.size() >= kChunk || ended_;
    const std::size_t end = is_enough && first != std::string::npos ? end_of_last(buffer_, name_) : 0;
    if (end > first) {
      std::string chunk = buffer_.substr(first, end - first);
      buffer_.erase(0, end);
      end_searched_ -= std::min(end_searched_, end);
      return chunk;
    }
    const auto damaged = [&](std::string_view how) {
      return data_error(fmt::format("{} is damaged: an element {} of its XML {}. Save the workbook again.",
                                    member_.archive(), name_, how));
    };
    if (ended_ && first != std::string::npos) return damaged("does not end");
    if (ended_) {
      PEAR_TRY(read_rest());
      return std::nullopt;
    }
    if (buffer_.size() > kLargestElement) return damaged("is longer than 64 MiB");
    PEAR_ASSIGN([[maybe_unused]] const bool more, read_more());
    cut_at_end();
  }
}

}  // namespace pear::sources
