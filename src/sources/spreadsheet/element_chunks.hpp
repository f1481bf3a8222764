// Cuts XML into pieces of whole elements.
#pragma once

#include <cstdint>
#include <optional>
#include <string>
#include <string_view>

#include "base/error.hpp"
#include "sources/spreadsheet/zip_archive.hpp"

namespace pear::sources {

/// Reads a part of an archive while it is decompressed, so that the elements in it, such as the rows of a
/// sheet, can be parsed in pieces, by several threads. Elements of one name must not contain each other.
class ElementChunks {
 public:
  explicit ElementChunks(ZipMember member) : member_(std::move(member)) {}

  /// Goes to the end of the next tag of an element of this name, with any prefix, and returns the tag;
  /// nothing if there is none. Errors: those of the member.
  [[nodiscard]] OrError<std::optional<std::string>> next_tag(std::string_view name);

  /// Goes to the `count`th element whose name is `parent`, with any prefix, and chooses the elements `child`
  /// in it, with the same prefix. False if there is no such parent. Errors: those of the member.
  [[nodiscard]] OrError<bool> enter(std::string_view parent, std::string_view child, std::size_t count = 1);
  /// The name of the chosen elements with its prefix: "row" or "x:row".
  [[nodiscard]] const std::string& name() const { return name_; }

  /// About a quarter of a megabyte of elements, or one that is longer, with what may be between them; nothing
  /// after the last. Errors: those of the member; data, if an element is longer than 64 MiB or does not end.
  [[nodiscard]] OrError<std::optional<std::string>> next();

 private:
  /// Reads more; false at the end.
  [[nodiscard]] OrError<bool> read_more();
  /// To the end of the member, where its checksum is verified.
  [[nodiscard]] OrError<void> read_rest();
  /// Ends with the parent element.
  void cut_at_end();

  ZipMember member_;
  std::string name_, end_;
  std::string buffer_;
  std::size_t end_searched_ = 0;  // of the buffer, for the end of the parent
  bool ended_ = false;
};

/// Where the element begins that has this name, from `from` on; npos if none does.
[[nodiscard]] std::size_t find_element(std::string_view xml, std::string_view name, std::size_t from);

}  // namespace pear::sources
