// Reads a table of a TOML file key by key.
#pragma once

#include <functional>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include <toml++/toml.h>

#include "base/error.hpp"

namespace pear::files {

/// A TOML document. Error: data, with the path and the line.
[[nodiscard]] OrError<toml::table> parse_toml(std::string_view text, const std::string& path);

/// Reads the keys of one table. Every getter remembers the first fault; finish() returns it, or the first
/// unknown key. So a reader gets all keys that it knows and checks once.
class TomlSection {
 public:
  /// `name` is the table's name in messages: "[lines]"; it is empty for the whole file, whose messages use
  /// `kind`.
  TomlSection(const toml::table& table, std::string name, std::string file,
              std::string kind = "an intake file")
      : table_(table), name_(std::move(name)), file_(std::move(file)), kind_(std::move(kind)) {}

  [[nodiscard]] bool has(std::string_view key) const { return table_.contains(key); }
  std::string text(std::string_view key);
  std::optional<std::string> optional_text(std::string_view key);
  /// One text, or a list of texts; empty if the key is missing.
  std::vector<std::string> texts(std::string_view key);
  /// true, false, or texts, which are then stored in `texts`: returns whether it is true.
  bool truth_or_texts(std::string_view key, std::vector<std::string>& texts);
  /// A list of numbers, as written.
  std::vector<std::string> numbers(std::string_view key);
  /// A text, number, date or truth value, or a list of these, as written; empty if the key is missing.
  std::vector<std::string> scalars(std::string_view key);
  /// use(section) for a table within, or for each of an array of tables.
  void within(std::string_view key, const std::function<void(TomlSection&)>& use);
  /// use(key, texts) for every key that no getter has read yet, in the order of the file.
  void each_other(const std::function<void(const std::string&, std::vector<std::string>)>& use);
  /// The same for tables within.
  void each_other_section(const std::function<void(const std::string&, TomlSection&)>& use);

  [[nodiscard]] const std::string& file() const { return file_; }
  /// The line of a key, or of the beginning of the table itself.
  [[nodiscard]] std::uint32_t line_of(std::string_view key) const;
  /// Records a fault of the value of a key.
  void fault(std::string_view key, const std::string& what);
  /// The first fault of this or any table within it, or an unknown key.
  [[nodiscard]] OrError<void> finish();

 private:
  const toml::node* find(std::string_view key);
  void settle(OrError<void> outcome) {
    if (outcome_ && !outcome) outcome_ = std::move(outcome);
  }
  const toml::table& table_;
  std::string name_;
  std::string file_;
  std::string kind_;
  std::vector<std::string> asked_;
  OrError<void> outcome_;
};

}  // namespace pear::files
