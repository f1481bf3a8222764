// The glossary of the documentation, for reports.
#pragma once

#include <string>

namespace pear::study {

/// The terms of docs/glossary.md as Markdown, its sections as headings of the third level.
[[nodiscard]] std::string glossary_markdown();

}  // namespace pear::study
