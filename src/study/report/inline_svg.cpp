#include "study/report/inline_svg.hpp"

#include <algorithm>
#include <string_view>

#include <fmt/format.h>

#include "files/whole_file.hpp"
#include "study/report/html.hpp"

namespace pear::study {
namespace {

/// Puts the prefix before the names that elements have and refer to. Only tags are changed: data is text
/// between them, in which gnuplot has escaped brackets.
std::string with_own_names(std::string_view svg, const std::string& prefix) {
  std::string renamed;
  while (!svg.empty()) {
    const std::size_t open = std::min(svg.find('<'), svg.size()),
                      close = std::min(svg.find('>', open), svg.size());
    renamed += svg.substr(0, open);
    std::string tag(svg.substr(open, close - open));
    for (const std::string_view name : {" id='", " id=\"", "href='#", "href=\"#", "url(#"})
      for (std::size_t at = tag.find(name); at != std::string::npos; at = tag.find(name, at + name.size()))
        tag.insert(at + name.size(), prefix);
    renamed += tag;
    svg.remove_prefix(close);
  }
  return renamed;
}

}  // namespace

OrError<std::string> inline_svg(const std::string& path, const result::Figure& figure,
                                const std::string& prefix) {
  PEAR_ASSIGN(std::string svg, files::read_whole_file(path));
  svg.erase(0, std::min(svg.find("<svg"), svg.size()));
  svg = with_own_names(svg, html_text(prefix));
  const std::string size = " width=\"1280\" height=\"800\"";
  if (const std::size_t at = svg.find(size); at != std::string::npos) svg.erase(at, size.size());
  const std::string said = figure.subtitle.empty() ? figure.title : figure.title + " " + figure.subtitle;
  return svg.insert(std::string_view("<svg").size(),
                    fmt::format(" role=\"img\" aria-label=\"{}\"", html_text(said)));
}

}  // namespace pear::study
