#include "study/report/glossary.hpp"

#include <string_view>

#include <absl/strings/str_replace.h>

namespace pear::study {
namespace {

constexpr std::string_view kGlossary =
#include "glossary.inc"  // docs/glossary.md as a literal, written by CMake
    ;

}  // namespace

std::string glossary_markdown() {
  const std::string sections(kGlossary.substr(kGlossary.find("## ")));
  return absl::StrReplaceAll(sections, {{"\n## ", "\n### "}, {"## Data", "### Data"}});
}

}  // namespace pear::study
