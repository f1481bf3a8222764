#include "study/report/html.hpp"

#include <cmark.h>
#include <cstdlib>
#include <memory>
#include <vector>

#include <fmt/format.h>

#include "base/ascii.hpp"
#include "output/tables/readable.hpp"

namespace pear::study {

std::string html_text(std::string_view text) {
  std::string escaped;
  escaped.reserve(text.size());
  for (const char c : output::without_controls(text, "\t\n")) {
    switch (c) {
      case '&':
        escaped += "&amp;";
        break;
      case '<':
        escaped += "&lt;";
        break;
      case '>':
        escaped += "&gt;";
        break;
      case '"':
        escaped += "&quot;";
        break;
      case '\'':
        escaped += "&#39;";
        break;
      default:
        escaped += c;
    }
  }
  return escaped;
}

std::string url_text(std::string_view text) {
  std::string encoded;
  for (const char c : text) {
    const bool plain = is_digit(c) || (c >= 'a' && c <= 'z') || (c >= 'A' && c <= 'Z') ||
                       std::string_view("-._~").find(c) != std::string_view::npos;
    encoded += plain ? std::string(1, c) : fmt::format("%{:02X}", static_cast<unsigned char>(c));
  }
  return encoded;
}

std::string markdown_as_html(const std::string& markdown) {
  const std::unique_ptr<cmark_node, decltype(&cmark_node_free)> document(
      cmark_parse_document(markdown.data(), markdown.size(), CMARK_OPT_DEFAULT), &cmark_node_free);
  // Pictures would be loaded from elsewhere.
  std::vector<cmark_node*> pictures;
  const std::unique_ptr<cmark_iter, decltype(&cmark_iter_free)> walk(cmark_iter_new(document.get()),
                                                                     &cmark_iter_free);
  for (cmark_event_type event = cmark_iter_next(walk.get()); event != CMARK_EVENT_DONE;
       event = cmark_iter_next(walk.get())) {
    cmark_node* node = cmark_iter_get_node(walk.get());
    if (event == CMARK_EVENT_ENTER && cmark_node_get_type(node) == CMARK_NODE_IMAGE) pictures.push_back(node);
  }
  for (cmark_node* picture : pictures) {
    cmark_node_unlink(picture);
    cmark_node_free(picture);
  }
  const std::unique_ptr<char, decltype(&std::free)> html(cmark_render_html(document.get(), CMARK_OPT_DEFAULT),
                                                         &std::free);
  return html.get();
}

}  // namespace pear::study
