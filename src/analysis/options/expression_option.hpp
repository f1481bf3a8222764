// Options that are expressions.
#pragma once

#include <optional>
#include <string>
#include <string_view>
#include <utility>
#include <vector>

#include "analysis/options/option.hpp"
#include "base/error.hpp"
#include "expression/syntax/parse.hpp"
#include "expression/syntax/tree.hpp"

namespace pear::analysis {

/// The error of an expression that was given for an option, with the option's name; its kind is kept.
[[nodiscard]] inline tl::unexpected<Error> in_option(std::string_view option, const Error& error) {
  return tl::unexpected<Error>({error.kind, "--" + std::string(option) + ": " + error.message});
}

/// A list of expressions, each with a name.
template <class Options>
OptionDeclaration<Options> list_option(OptionInfo info, std::vector<expression::Tree> Options::*member) {
  auto set = [name = info.name, member](Options& options, std::string_view text) -> OrError<void> {
    auto list = expression::parse_list(text);
    if (!list) return in_option(name, list.error());
    options.*member = std::move(*list);
    return {};
  };
  return {std::move(info), std::move(set)};
}

/// One expression, with an optional name after AS.
template <class Options>
OptionDeclaration<Options> tree_option(OptionInfo info, std::optional<expression::Tree> Options::*member) {
  auto set = [name = info.name, member](Options& options, std::string_view text) -> OrError<void> {
    auto list = expression::parse_list(text);
    if (!list) return in_option(name, list.error());
    if (list->size() != 1) return usage_error("--" + name + " takes one expression, not a list.");
    options.*member = std::move(list->front());
    return {};
  };
  return {std::move(info), std::move(set)};
}

/// A condition.
template <class Options>
OptionDeclaration<Options> condition_option(OptionInfo info,
                                            std::optional<expression::Tree> Options::*member) {
  auto set = [name = info.name, member](Options& options, std::string_view text) -> OrError<void> {
    auto tree = expression::parse_tree(text);
    if (!tree) return in_option(name, tree.error());
    options.*member = std::move(*tree);
    return {};
  };
  return {std::move(info), std::move(set)};
}

/// What rows are sorted by.
template <class Options>
OptionDeclaration<Options> sort_option(OptionInfo info, std::vector<expression::SortKey> Options::*member) {
  auto set = [name = info.name, member](Options& options, std::string_view text) -> OrError<void> {
    auto keys = expression::parse_sort(text);
    if (!keys) return in_option(name, keys.error());
    options.*member = std::move(*keys);
    return {};
  };
  return {std::move(info), std::move(set)};
}

/// A switch: off unless given.
template <class Options>
OptionDeclaration<Options> switch_option(OptionInfo info, bool Options::*member) {
  auto set = [member](Options& options, std::string_view) -> OrError<void> {
    options.*member = true;
    return {};
  };
  return {std::move(info), std::move(set)};
}

}  // namespace pear::analysis
