// Text as HTML.
#pragma once

#include <string>
#include <string_view>

namespace pear::study {

/// As the text of an element or the value of an attribute in double quotes, without any markup. Characters
/// that HTML does not allow become U+FFFD.
[[nodiscard]] std::string html_text(std::string_view text);

/// As part of a link: all except letters, digits and -._~ percent-encoded (RFC 3986).
[[nodiscard]] std::string url_text(std::string_view text);

/// Markdown (CommonMark) as HTML. HTML within, links to scripts and pictures are left out.
[[nodiscard]] std::string markdown_as_html(const std::string& markdown);

}  // namespace pear::study
