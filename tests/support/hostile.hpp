// Texts that are markup, formulas or commands to some program, and must remain text everywhere.
#pragma once

#include <string>
#include <vector>

namespace pear::test {

[[nodiscard]] inline std::vector<std::string> hostile_texts() {
  return {"<script>alert('x')</script>",
          "</title></style><img src=x onerror=\"alert(1)\">",
          "=cmd|' /C calc'!A0",
          "=HYPERLINK(\"http://example.invalid/\",\"here\")",
          "+1+2",
          "-2+3",
          "@SUM(A1)",
          "\"quoted\" and 'quoted'",
          "100% %s %n %d",
          "`touch made`; $(touch made)",
          "{{title}} {{{title}}} {{#x}}",
          "| pipe | *star* _under_ [link](http://example.invalid/) ![p](http://example.invalid/p.png) # ~~~",
          "&amp; &lt; &#60;",
          "back\\slash \\u0041",
          "\xD7\xA9\xD7\x9C\xD7\x95\xD7\x9D \xD8\xB3\xD9\x84\xD8\xA7\xD9\x85",  // right to left
          "\xE2\x80\xAE"
          "desrever",  // an override of direction
          "caf\xC3\xA9 \xF0\x9F\x8D\x90 n\xCC\x83",
          "\x1b[31mred\x1b[0m \x1b]0;title\x07 bell \x08\x08",
          std::string(10'000, 'w'),
          "x' href='#y\" url(#z) id='a"};
}

}  // namespace pear::test
