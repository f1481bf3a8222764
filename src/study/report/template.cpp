#include "study/report/template.hpp"

#include <algorithm>
#include <charconv>
#include <filesystem>
#include <kainjow/mustache.hpp>
#include <map>
#include <memory>

#include <fmt/format.h>

#include "base/text.hpp"
#include "output/tables/markdown_writer.hpp"
#include "study/report/html.hpp"
#include "study/report/study_names.hpp"

namespace pear::study {
namespace {

using kainjow::mustache::data;

std::size_t line_at(std::string_view text, std::size_t position) {
  return 1 + static_cast<std::size_t>(
                 std::count(text.begin(), text.begin() + static_cast<std::ptrdiff_t>(position), '\n'));
}

/// The first position of a tag with that name.
std::size_t line_of_name(std::string_view text, std::string_view name) {
  constexpr std::string_view kBefore = "{&#^/> \t\r\n";
  for (std::size_t at = text.find("{{"); at != std::string_view::npos; at = text.find("{{", at + 2)) {
    const std::size_t begin = text.find_first_not_of(kBefore, at + 2);
    if (begin != std::string_view::npos && text.substr(begin).starts_with(name)) return line_at(text, at);
  }
  return 1;
}

/// Looks up names in the rows that sections visit, then among those of the study. The first fault ends it.
class NameLookup : public kainjow::mustache::basic_context<std::string> {
 public:
  NameLookup(const StudyAnswers& answers, TemplateKind kind, std::string_view text, std::string file)
      : names_(answers, kind), text_(text), file_(std::move(file)) {}

  void push(const data* pushed) override { stack_.push_back(pushed); }
  void pop() override { stack_.pop_back(); }

  const data* get(const std::string& name) const override {
    for (auto item = stack_.rbegin(); item != stack_.rend(); ++item) {
      if (name == ".") return *item;
      if (const data* found = (*item)->is_object() ? (*item)->get(name) : nullptr) return found;
    }
    if (const auto known = found_.find(name); known != found_.end()) return known->second.get();
    return look_up(name);
  }
  const data* get_partial(const std::string& name) const override { return get(name); }

  [[nodiscard]] const std::optional<Error>& fault() const { return fault_; }

 private:
  const data* look_up(const std::string& name) const {
    auto& place = found_[name];
    if (const auto rows = names_.rows(name)) {
      place = std::make_unique<data>(data::type::list);
      for (const NamedCells& cells : *rows) {
        data row(data::type::object);
        for (const auto& [column, cell] : cells) row.set(column, cell);
        place->push_back(row);
      }
      return place.get();
    }
    auto value = names_.value(name);
    if (!value)
      complain(name, value.error());
    else if (!*value)
      complain(name, {ErrorKind::data, fmt::format("there is no result called {}.{}", in_quotes(name),
                                                   did_you_mean(name, names_.all()))});
    place = std::make_unique<data>(value && *value ? **value : std::string());
    return place.get();
  }

  void complain(const std::string& name, const Error& error) const {
    if (!fault_)
      fault_ =
          Error{error.kind, fmt::format("{}, line {}: {}", file_, line_of_name(text_, name), error.message)};
  }

  StudyNames names_;
  std::string_view text_;
  std::string file_;
  std::vector<const data*> stack_;
  // mustache asks a context that it considers constant
  mutable std::map<std::string, std::unique_ptr<data>> found_;
  mutable std::optional<Error> fault_;
};

/// The parser reports the byte of an error.
Error parse_fault(std::string_view text, const std::string& file, const std::string& said) {
  const std::size_t at = said.rfind(" at ");
  std::size_t position = 0;
  if (at != std::string::npos) std::from_chars(said.data() + at + 4, said.data() + said.size(), position);
  return {ErrorKind::data, fmt::format("{}, line {}: this is not a mustache template: {}.", file,
                                       line_at(text, std::min(position, text.size())), said.substr(0, at))};
}

}  // namespace

TemplateKind template_kind(const std::string& path) {
  const std::string ending = std::filesystem::path(path).extension().string();
  if (ending == ".html" || ending == ".htm" || ending == ".svg" || ending == ".xml")
    return TemplateKind::html;
  return ending == ".md" || ending == ".markdown" ? TemplateKind::markdown : TemplateKind::text;
}

OrError<std::string> fill_template(const StudyAnswers& answers, std::string_view text,
                                   const std::string& file, TemplateKind kind) {
  kainjow::mustache::mustache parsed{std::string(text)};
  if (!parsed.is_valid()) return tl::unexpected(parse_fault(text, file, parsed.error_message()));
  parsed.set_custom_escape([kind](const std::string& value) {
    return kind == TemplateKind::html       ? html_text(value)
           : kind == TemplateKind::markdown ? output::markdown_text(value)
                                            : value;
  });
  NameLookup lookup(answers, kind, text, file);
  std::string filled = parsed.render(lookup);
  if (lookup.fault()) return tl::unexpected(*lookup.fault());
  if (!parsed.is_valid()) return tl::unexpected(parse_fault(text, file, parsed.error_message()));
  return filled;
}

}  // namespace pear::study
