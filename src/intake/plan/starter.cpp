#include "intake/plan/starter.hpp"

#include <filesystem>

#include <fmt/format.h>

#include "base/text.hpp"
#include "intake/read/table_columns.hpp"

namespace pear::intake {
namespace {

std::string list_of(const std::vector<std::string>& texts) {
  std::vector<std::string> quoted;
  for (const std::string& text : texts) quoted.push_back(toml_text(text));
  return quoted.size() == 1 ? quoted.front() : fmt::format("[{}]", join(quoted, ", "));
}

std::string as_list(const std::vector<std::string>& texts) {
  return texts.size() == 1 ? fmt::format("[{}]", list_of(texts)) : list_of(texts);
}

class Starter {
 public:
  Starter(const Guess& guess, const std::vector<SourceProfile>& profiles, std::string folder)
      : guess_(guess), profiles_(profiles), folder_(std::move(folder)) {}

  std::string write() {
    text_ =
        "# Says how raw data becomes a daybook. pear-thread inspect wrote it from the data. Check it, then "
        "run:\n"
        "#   pear-thread import THIS-FILE\n"
        "# docs/intake-file.md describes all keys.\n\n"
        "[shop]\n"
        "name = \"\"          # the shop's name in reports\n"
        "currency = \"\"      # as EUR\n";
    for (const std::string& role : guess_.missing)
      text_ +=
          fmt::format("\n# MISSING: no column was recognised as {}. Name it under [lines.columns].\n", role);
    for (const GuessedTable& table : guess_.tables) add_table(table);
    add_hints();
    return std::move(text_);
  }

 private:
  std::string path_from_folder(const std::string& path) const {
    if (path.empty() || path == "-") return path;
    return std::filesystem::proximate(path, folder_.empty() ? "." : folder_).string();
  }

  void add_table(const GuessedTable& table) {
    const SourceProfile& source = profiles_[table.sources.front()];
    text_ += fmt::format("\n[{}]   # {}\n", to_text(table.kind), counted(source.rows, "row"));
    if (source.address.file.empty()) {
      const bool whole = !source.address.table.empty();
      text_ += fmt::format("database = {}\n{} = {}\n", toml_text(source.address.database),
                           whole ? "table" : "query",
                           toml_text(whole ? source.address.table : source.address.query));
    } else {
      std::vector<std::string> files;
      for (const std::size_t each : table.sources)
        files.push_back(path_from_folder(profiles_[each].address.file));
      text_ += fmt::format("file = {}\n", list_of(files));
    }
    if (source.encoding && *source.encoding != sources::Encoding::utf8)
      text_ += fmt::format("encoding = {}   # detected\n", toml_text(sources::to_text(*source.encoding)));
    if (!table.date_formats.empty()) text_ += fmt::format("date_format = {}\n", list_of(table.date_formats));
    if (table.numbers.decimal != '.') text_ += fmt::format("decimal = \"{}\"\n", table.numbers.decimal);
    if (table.numbers.thousands) text_ += fmt::format("thousands = \"{}\"\n", *table.numbers.thousands);
    for (const OpenQuestion& question : guess_.questions) {
      if (question.table != to_text(table.kind)) continue;
      text_ += fmt::format("# QUESTION: {} Keep one of these lines:\n", question.text);
      for (const std::string& answer : question.answers) text_ += fmt::format("# {}\n", answer);
    }
    if (!table.trim.empty())
      text_ += fmt::format("trim = {}   # removes spaces at both ends\n", as_list(table.trim));
    if (!table.fold_case.empty())
      text_ += fmt::format(
          "fold_case = {}   # one spelling for upper and lower case; remove columns where case matters\n",
          as_list(table.fold_case));
    add_columns(table);
  }

  void add_columns(const GuessedTable& table) {
    std::string roles, others;
    for (const GuessedColumn& column : table.columns) {
      if (column.is_role) {
        const std::string mapping = fmt::format("{} = {}", column.name, toml_text(column.header));
        roles += fmt::format("{:<32}# {}\n", mapping, column.why);
      } else if (!column.name.empty()) {
        others += fmt::format("{}{}", others.empty() ? "" : ", ", plain_name(table.kind, column.header));
      }
    }
    if (!roles.empty()) text_ += fmt::format("\n[{}.columns]\n{}", to_text(table.kind), roles);
    if (!others.empty()) text_ += fmt::format("# These columns are kept under their own names: {}\n", others);
  }

  void add_hints() {
    text_ += "\n# If rows were exported twice, say which values make two rows equal";
    for (const GuessedTable& table : guess_.tables) {
      const SourceProfile& source = profiles_[table.sources.front()];
      if (source.repeated_rows > 0)
        text_ += fmt::format("\n# ({}: {} identical to an earlier one)", source.name,
                             counted(source.repeated_rows, "row is", "rows are"));
    }
    text_ += ":\n";
    text_ +=
        "# [[duplicates]]\n# in = \"lines\"\n# same = [\"order_id\", \"product_id\"]\n# keep = \"first\"\n";
    for (const std::size_t source : guess_.unused)
      text_ +=
          fmt::format("\n# Not used: {}. It was not recognised as lines, orders, products or customers.\n",
                      profiles_[source].name);
  }

  const Guess& guess_;
  const std::vector<SourceProfile>& profiles_;
  std::string folder_;
  std::string text_;
};

}  // namespace

std::string toml_text(std::string_view text) {
  std::string quoted = "\"";
  for (const char c : text) {
    if (c == '"' || c == '\\') quoted += '\\';
    if (static_cast<unsigned char>(c) < 0x20) {
      quoted += fmt::format("\\u{:04X}", static_cast<unsigned>(c));
    } else {
      quoted += c;
    }
  }
  return quoted + "\"";
}

std::string starter_intake(const Guess& guess, const std::vector<SourceProfile>& profiles,
                           const std::string& folder) {
  return Starter(guess, profiles, folder).write();
}

}  // namespace pear::intake
