#include "files/toml_section.hpp"

#include <algorithm>
#include <sstream>

#include <fmt/format.h>

#include "base/text.hpp"

namespace pear::files {

namespace {

/// "lines.from" for "[lines.from]" and "[[lines.from]]".
std::string without_brackets(std::string_view name) {
  name.remove_prefix(std::min(name.find_first_not_of('['), name.size()));
  return std::string(name.substr(0, name.find(']')));
}

}  // namespace

OrError<toml::table> parse_toml(std::string_view text, const std::string& path) {
  try {
    return toml::parse(text);
  } catch (const toml::parse_error& fault) {
    return data_error(fmt::format("{}, line {}: this is not valid TOML: {}", path, fault.source().begin.line,
                                  fault.description()));
  }
}

const toml::node* TomlSection::find(std::string_view key) {
  asked_.emplace_back(key);
  return table_.get(key);
}

std::uint32_t TomlSection::line_of(std::string_view key) const {
  const toml::node* node = table_.get(key);
  return node == nullptr ? table_.source().begin.line : node->source().begin.line;
}

void TomlSection::fault(std::string_view key, const std::string& what) {
  const std::string where = name_.empty() ? std::string(key) : fmt::format("{} {}", name_, key);
  settle(data_error(fmt::format("{}, line {}: {}: {}", file_, line_of(key), where, what)));
}

std::optional<std::string> TomlSection::optional_text(std::string_view key) {
  const toml::node* node = find(key);
  if (node == nullptr) return std::nullopt;
  if (const auto* text = node->as_string()) return text->get();
  fault(key, "expected a text in quotes.");
  return std::nullopt;
}

std::string TomlSection::text(std::string_view key) { return optional_text(key).value_or(""); }

std::vector<std::string> TomlSection::texts(std::string_view key) {
  const toml::node* node = find(key);
  if (node == nullptr) return {};
  if (const auto* text = node->as_string()) return {text->get()};
  std::vector<std::string> all;
  if (const auto* list = node->as_array()) {
    for (const toml::node& each : *list) {
      const auto* text = each.as_string();
      if (text == nullptr) break;
      all.push_back(text->get());
    }
    if (all.size() == list->size()) return all;
  }
  fault(key, "expected a text in quotes, or several as [\"...\", \"...\"].");
  return {};
}

bool TomlSection::truth_or_texts(std::string_view key, std::vector<std::string>& into) {
  const toml::node* node = table_.get(key);
  if (node == nullptr || !node->is_boolean()) {
    into = texts(key);
    return false;
  }
  asked_.emplace_back(key);
  return node->as_boolean()->get();
}

std::vector<std::string> TomlSection::numbers(std::string_view key) {
  const toml::node* node = find(key);
  if (node == nullptr) return {};
  std::vector<std::string> all;
  if (const auto* list = node->as_array()) {
    for (const toml::node& each : *list) {
      if (!each.is_number()) break;
      std::ostringstream text;
      text << toml::node_view(each);
      all.push_back(text.str());
    }
    if (all.size() == list->size()) return all;
  }
  fault(key, "expected a list of numbers, such as [1, 6, 24].");
  return {};
}

std::vector<std::string> TomlSection::scalars(std::string_view key) {
  const toml::node* node = find(key);
  if (node == nullptr) return {};
  std::vector<std::string> all;
  const auto take = [&](const toml::node& value) {
    if (const auto* text = value.as_string()) return void(all.push_back(text->get()));
    if (value.is_table() || value.is_array())
      return fault(key, "expected a text, a number, a date, true or false, or a list of these.");
    std::ostringstream text;
    text << toml::node_view(value);
    all.push_back(text.str());
  };
  if (const auto* list = node->as_array()) {
    for (const toml::node& each : *list) take(each);
  } else {
    take(*node);
  }
  return all;
}

void TomlSection::within(std::string_view key, const std::function<void(TomlSection&)>& use) {
  const toml::node* node = find(key);
  if (node == nullptr) return;
  const auto read = [&](const toml::table& table, std::string name) {
    TomlSection section(table, std::move(name), file_, kind_);
    use(section);
    settle(section.finish());
  };
  const std::string full =
      name_.empty() ? std::string(key) : fmt::format("{}.{}", without_brackets(name_), key);
  if (const auto* table = node->as_table()) return read(*table, fmt::format("[{}]", full));
  const auto* list = node->as_array();
  if (list == nullptr || !list->is_homogeneous<toml::table>())
    return fault(key, fmt::format("expected a table [{}].", full));
  for (const toml::node& each : *list) read(*each.as_table(), fmt::format("[[{}]]", full));
}

void TomlSection::each_other(const std::function<void(const std::string&, std::vector<std::string>)>& use) {
  std::vector<std::pair<toml::source_position, std::string>> others;
  for (const auto& [key, node] : table_) {
    std::string name(key.str());
    if (std::find(asked_.begin(), asked_.end(), name) == asked_.end())
      others.emplace_back(key.source().begin, std::move(name));
  }
  std::sort(others.begin(), others.end());
  for (const auto& [position, name] : others) use(name, texts(name));
}

void TomlSection::each_other_section(const std::function<void(const std::string&, TomlSection&)>& use) {
  for (const auto& [key, node] : table_) {
    const std::string name(key.str());
    if (std::find(asked_.begin(), asked_.end(), name) != asked_.end()) continue;
    within(name, [&](TomlSection& section) { use(name, section); });
  }
}

OrError<void> TomlSection::finish() {
  PEAR_TRY(outcome_);
  for (const auto& [key, node] : table_) {
    const std::string name(key.str());
    if (std::find(asked_.begin(), asked_.end(), name) != asked_.end()) continue;
    return data_error(fmt::format("{}, line {}: {} has no key {}.{} Its keys: {}.", file_,
                                  key.source().begin.line, name_.empty() ? kind_ : name_, in_quotes(name),
                                  did_you_mean(name, asked_), join(asked_, ", ")));
  }
  return {};
}

}  // namespace pear::files
