#include "intake/plan/starter.hpp"

#include <algorithm>
#include <filesystem>

#include <fmt/format.h>

#include "base/text.hpp"
#include "intake/read/currency.hpp"
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
        "name = \"\"          # the shop's name in reports\n";
    text_ += fmt::format("currency = {:<8}# as EUR\n", toml_text(currency()));
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
      const bool several = table.sources.size() > 1;  // sheets, each with its own name
      for (const std::size_t each : table.sources) {
        const sources::TableAddress& address = profiles_[each].address;
        files.push_back(path_from_folder(address.file));
        if (several && !address.sheet.empty()) files.back() += "?sheet=" + address.sheet;
      }
      text_ += fmt::format("file = {}\n", list_of(files));
      if (!several && !source.address.sheet.empty())
        text_ += fmt::format("sheet = {}\n", toml_text(source.address.sheet));
    }
    if (source.address.header_line > 0)
      text_ += fmt::format("header_line = {}   # {}\n", source.address.header_line, source.why_header);
    add_skipped(table);
    if (source.encoding && *source.encoding != sources::Encoding::utf8)
      text_ += fmt::format("encoding = {}   # detected\n", toml_text(sources::to_text(*source.encoding)));
    if (!table.dates.formats.empty())
      text_ += fmt::format("date_format = {}\n", list_of(table.dates.formats));
    if (table.dates.language != "en")
      text_ +=
          fmt::format("date_language = {}   # of the names of months\n", toml_text(table.dates.language));
    add_numbers(table.numbers);
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

  /// The code of the currency in the numbers, if they show one and no other.
  std::string currency() const {
    std::string code;
    for (const GuessedTable& table : guess_.tables) {
      for (const std::string& word : table.numbers.strip) {
        const std::string_view found = currency_of(word);
        if (found.size() != 3) continue;
        if (!code.empty() && code != found) return "";
        code = found;
      }
    }
    return code;
  }

  void add_skipped(const GuessedTable& table) {
    std::vector<std::string> patterns;
    std::string lines;
    for (const std::size_t each : table.sources) {
      for (const OddRows& odd : profiles_[each].odd_rows) {
        if (std::find(patterns.begin(), patterns.end(), odd.pattern) != patterns.end()) continue;
        patterns.push_back(odd.pattern);
        lines += fmt::format("  {},   # {} {}\n", toml_text(odd.pattern), counted(odd.rows, "row"), odd.why);
      }
    }
    if (!patterns.empty())
      text_ += fmt::format("skip_rows = [   # rows whose first value fits\n{}]\n", lines);
  }

  void add_numbers(const NumberFormat& numbers) {
    if (numbers.decimal != '.') text_ += fmt::format("decimal = \"{}\"\n", numbers.decimal);
    if (!numbers.thousands.empty()) text_ += fmt::format("thousands = {}\n", toml_text(numbers.thousands));
    if (!numbers.strip.empty())
      text_ += fmt::format("strip = {}   # removed from either end of numbers\n", as_list(numbers.strip));
    std::vector<std::string> negative;
    if (numbers.brackets) negative.emplace_back("brackets");
    if (numbers.trailing_minus) negative.emplace_back("trailing minus");
    if (!negative.empty()) text_ += fmt::format("negative = {}\n", list_of(negative));
    if (numbers.percent) text_ += "percent = true   # 10% is 0.1\n";
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
          fmt::format("\n# Not used: {}. It was not recognised, or another source is that table already.\n",
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
