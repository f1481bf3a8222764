// Text in reports: it stays text in HTML, links and Markdown.
#include "study/report/html.hpp"

#include <algorithm>
#include <string>

#include <gtest/gtest.h>
#include <rapidcheck/gtest.h>

#include "support/hostile.hpp"
#include "support/random_shop.hpp"

namespace pear::test {
namespace {

std::string replaced(std::string text, const std::string& from, const std::string& to) {
  for (std::size_t at = 0; (at = text.find(from, at)) != std::string::npos; at += to.size())
    text.replace(at, from.size(), to);
  return text;
}

/// Any characters of ASCII, control characters too.
std::string random_ascii() {
  std::string text;
  for (int i = pick(0, 30); i > 0; --i) text += static_cast<char>(pick(1, 126));
  return text;
}

RC_GTEST_PROP(HtmlText, IsTheTextWithoutMarkup, ()) {
  const std::string text = random_ascii();
  const std::string html = study::html_text(text);
  RC_ASSERT(html.find_first_of("<>\"'") == std::string::npos);
  std::string read = html;
  for (const auto& [entity, character] :
       {std::pair("&lt;", "<"), {"&gt;", ">"}, {"&quot;", "\""}, {"&#39;", "'"}, {"&amp;", "&"}})
    read = replaced(read, entity, character);
  std::string wanted;
  for (const char c : text) {
    const bool is_control = static_cast<unsigned char>(c) < 0x20 && c != '\t' && c != '\n';
    wanted += is_control ? "\xEF\xBF\xBD" : std::string(1, c);
  }
  RC_ASSERT(read == wanted);
}

RC_GTEST_PROP(UrlText, IsPercentEncoded, ()) {
  const std::vector<std::string> hostile = hostile_texts();
  const std::string text =
      pick(0, 1) == 0 ? random_ascii()
                      : hostile[static_cast<std::size_t>(pick(0, static_cast<int>(hostile.size()) - 1))];
  std::string read;
  const std::string url = study::url_text(text);
  for (std::size_t i = 0; i < url.size(); ++i) {
    if (url[i] != '%') {
      RC_ASSERT(std::isalnum(static_cast<unsigned char>(url[i])) != 0 ||
                std::string_view("-._~").find(url[i]) != std::string_view::npos);
      read += url[i];
      continue;
    }
    read += static_cast<char>(std::stoi(url.substr(i + 1, 2), nullptr, 16));
    i += 2;
  }
  RC_ASSERT(read == text);
}

TEST(Markdown, BecomesHtmlWithoutScriptsAndPictures) {
  EXPECT_EQ(study::markdown_as_html("A *new* **plan**."), "<p>A <em>new</em> <strong>plan</strong>.</p>\n");
  EXPECT_NE(study::markdown_as_html("[more](https://shop.example/)").find("href=\"https://shop.example/\""),
            std::string::npos);
  for (const std::string& text : hostile_texts()) {
    const std::string html = study::markdown_as_html(text);
    for (const std::string tag : {"<script", "<img", "<style", "onerror=\""})
      EXPECT_EQ(html.find(tag), std::string::npos) << html;
  }
  EXPECT_EQ(study::markdown_as_html("[x](javascript:alert(1))").find("javascript"), std::string::npos);
}

}  // namespace
}  // namespace pear::test
