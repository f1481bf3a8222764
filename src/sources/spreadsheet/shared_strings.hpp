// The texts that cells of a workbook share.
#pragma once

#include <string>
#include <string_view>
#include <vector>

#include "sources/spreadsheet/workbook.hpp"

namespace pear::sources {

/// The text of <si> or <is>, without its pronunciation (ECMA-376, part 1, 18.4.8).
[[nodiscard]] std::string rich_text(pugi::xml_node node);

/// Control characters are written as _x000D_; an underscore before such a text as _x005F_ (22.9.2.19).
[[nodiscard]] std::string without_escapes(std::string_view text);

class SharedStrings {
 public:
  /// Errors: those of the member; data, for damaged XML.
  [[nodiscard]] static OrError<SharedStrings> read(const ZipArchive& archive, const std::string& part);

  [[nodiscard]] std::size_t size() const { return ends_.size(); }
  [[nodiscard]] std::string_view operator[](std::size_t position) const {
    const std::size_t begin = position == 0 ? 0 : ends_[position - 1];
    return std::string_view(bytes_).substr(begin, ends_[position] - begin);
  }

 private:
  std::string bytes_;
  std::vector<std::size_t> ends_;
};

}  // namespace pear::sources
