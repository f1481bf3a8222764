// Free layout: a text of the user's own with places for what a study found. docs/templates.md lists the
// names.
#pragma once

#include <string>
#include <string_view>

#include "base/error.hpp"
#include "study/study.hpp"

namespace pear::study {

/// What a template's text is, by the ending of its file: names in it stand for text of that kind.
enum class TemplateKind : std::uint8_t { html, markdown, text };
[[nodiscard]] TemplateKind template_kind(const std::string& path);

/// The template (mustache) with its places filled. `file` is how messages call it. Errors: data, with the
/// line, for a name that is not known (with a suggestion), for what is no mustache, and for the answer of a
/// question that failed; io, where a figure cannot be read.
[[nodiscard]] OrError<std::string> fill_template(const StudyAnswers& answers, std::string_view text,
                                                 const std::string& file, TemplateKind kind);

}  // namespace pear::study
