// Templates: a text of the user's own with placeholders for the results of a study. docs/templates.md lists
// the names.
#pragma once

#include <string>
#include <string_view>

#include "base/error.hpp"
#include "study/study.hpp"

namespace pear::study {

/// The kind of a template's text, from the ending of its file: values are escaped for that kind.
enum class TemplateKind : std::uint8_t { html, markdown, text };
[[nodiscard]] TemplateKind template_kind(const std::string& path);

/// The template (mustache) with its placeholders filled. `file` is its name in messages. Errors: data, with
/// the line, for an unknown name (with a suggestion), for text that is not mustache, and for a result of a
/// question that failed; io, if a figure cannot be read.
[[nodiscard]] OrError<std::string> fill_template(const StudyAnswers& answers, std::string_view text,
                                                 const std::string& file, TemplateKind kind);

}  // namespace pear::study
