#include "intake/plan/starter.hpp"

#include <algorithm>
#include <filesystem>

#include <fmt/format.h>

#include "base/text.hpp"
#include "intake/plan/starter_hints.hpp"
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
    for (std::size_t i = 0; i < guess_.tables.size(); ++i) add_table(i);
    for (const std::size_t source : guess_.unused) add_unused(source);
    add_hints();
    return std::move(text_);
  }

 private:
  std::string path_from_folder(const std::string& path) const {
    if (path.empty() || path == "-") return path;
    return std::filesystem::proximate(path, folder_.empty() ? "." : folder_).string();
  }

  [[nodiscard]] bool is_first_of_several(std::size_t place) const {
    return place + 1 < guess_.tables.size() && guess_.tables[place].kind == guess_.tables[place + 1].kind &&
           (place == 0 || guess_.tables[place - 1].kind != guess_.tables[place].kind);
  }

  [[nodiscard]] bool is_one_of_several(std::size_t place) const {
    const auto same = [&](const GuessedTable& other) { return other.kind == guess_.tables[place].kind; };
    return std::count_if(guess_.tables.begin(), guess_.tables.end(), same) > 1;
  }

  /// [lines], or one [[lines.from]] for each form in which there are lines.
  void add_table(std::size_t place) {
    const GuessedTable& table = guess_.tables[place];
    const std::string name(to_text(table.kind));
    const bool several = is_one_of_several(place);
    std::uint64_t rows = 0;
    for (const std::size_t source : table.sources) rows += profiles_[source].rows;
    if (!several || is_first_of_several(place)) {
      text_ += fmt::format("\n[{}]{}\n", name,
                           several ? "   # exports in different forms; each has its own keys below"
                                   : fmt::format("   # {}", counted(rows, "row")));
      add_repeats(table.kind);
    }
    if (several) text_ += fmt::format("\n[[{}.from]]   # {}\n", name, counted(rows, "row"));
    add_keys(table);
    add_columns(table, several ? name + ".from" : name);
  }

  void add_repeats(TableKind kind) {
    for (const GuessedTable& table : guess_.tables) {
      if (table.kind != kind || table.repeated_orders.empty()) continue;
      text_ += fmt::format("on_repeat = \"replace orders\"   # {}\n", table.repeated_orders);
      return;
    }
  }

  void add_source(const std::vector<std::size_t>& sources, const std::string& lead) {
    const SourceProfile& source = profiles_[sources.front()];
    if (source.address.file.empty()) {
      const bool whole = !source.address.table.empty();
      text_ += fmt::format("{0}database = {1}\n{0}{2} = {3}\n", lead, toml_text(source.address.database),
                           whole ? "table" : "query",
                           toml_text(whole ? source.address.table : source.address.query));
    } else {
      std::vector<std::string> files;
      const bool several = sources.size() > 1;  // sheets, each with its own name
      for (const std::size_t each : sources) {
        const sources::TableAddress& address = profiles_[each].address;
        files.push_back(path_from_folder(address.file));
        if (several && !address.sheet.empty()) files.back() += "?sheet=" + address.sheet;
      }
      text_ += fmt::format("{}file = {}\n", lead, list_of(files));
      if (!several && !source.address.sheet.empty())
        text_ += fmt::format("{}sheet = {}\n", lead, toml_text(source.address.sheet));
    }
    if (source.address.header_line > 0)
      text_ +=
          fmt::format("{}header_line = {}   # {}\n", lead, source.address.header_line, source.why_header);
  }

  void add_keys(const GuessedTable& table) {
    const SourceProfile& source = profiles_[table.sources.front()];
    add_source(table.sources, "");
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
      if (question.source != table.sources.front()) continue;
      text_ += fmt::format("# QUESTION: {} Keep one of these lines:\n", question.text);
      for (const std::string& answer : question.answers) text_ += fmt::format("# {}\n", answer);
    }
    if (!table.trim.empty())
      text_ += fmt::format("trim = {}   # removes spaces at both ends\n", as_list(table.trim));
    if (!table.fold_case.empty())
      text_ += fmt::format(
          "fold_case = {}   # one spelling for upper and lower case; remove columns where case matters\n",
          as_list(table.fold_case));
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

  /// Every column: those with a role or a name that was found, roles that are missing, and the others, which
  /// only need a name.
  void add_columns(const GuessedTable& table, const std::string& section) {
    std::string text;
    for (const GuessedColumn& column : table.columns) {
      if (column.why.empty()) continue;
      const std::string mapping = fmt::format("{} = {}", column.name, toml_text(column.header));
      text += fmt::format("{:<31} # {}\n", mapping, column.why);
    }
    for (const std::string& role : missing_in(table))
      text +=
          fmt::format("{:<31} # MISSING: no column was recognised; name it here, and remove the first #\n",
                      fmt::format("# {} = \"...\"", role));
    const SourceProfile& source = profiles_[table.sources.front()];
    std::string others;
    for (std::size_t i = 0; i < table.columns.size(); ++i) {
      const GuessedColumn& column = table.columns[i];
      if (!column.why.empty() || column.header.empty()) continue;
      const std::string mapping =
          fmt::format("# {} = {}", plain_name(table.kind, column.header), toml_text(column.header));
      others += fmt::format("{:<31} # {}\n", mapping, described(source.columns[i]));
    }
    if (!others.empty())
      text +=
          "# Other columns keep their own names; to give one a role or another name, remove the first #:\n";
    if (!text.empty() || !others.empty()) text_ += fmt::format("\n[{}.columns]\n{}{}", section, text, others);
  }

  /// Of the roles that no table has, those that this one may have.
  std::vector<std::string> missing_in(const GuessedTable& table) const {
    std::vector<std::string> missing;
    for (const std::string& role : guess_.missing) {
      const bool has =
          std::any_of(table.columns.begin(), table.columns.end(),
                      [&](const GuessedColumn& column) { return column.is_role && column.name == role; });
      if (!has && table.kind == TableKind::lines) missing.push_back(role);
    }
    return missing;
  }

  /// "text: North · South"
  static std::string described(const ColumnProfile& column) {
    constexpr std::size_t kLongest = 60;
    std::string samples;
    for (const std::string& sample : column.samples) {
      if (samples.size() + sample.size() > kLongest) break;
      samples += (samples.empty() ? "" : " · ") + one_line(sample);
    }
    return samples.empty() ? type_name(column) : fmt::format("{}: {}", type_name(column), samples);
  }

  /// A comment ends with its line.
  static std::string one_line(std::string text) {
    std::replace_if(
        text.begin(), text.end(), [](char c) { return static_cast<unsigned char>(c) < 0x20 || c == 0x7F; },
        ' ');
    return text;
  }

  void add_unused(std::size_t place) {
    const SourceProfile& source = profiles_[place];
    text_ += fmt::format(
        "\n# Not used: {}. It was not recognised, or another source is that table already. To use it, remove "
        "the\n# signs, and replace TABLE by lines, orders, products, customers or prices:\n# [TABLE]   # "
        "{}\n",
        source.name, counted(source.rows, "row"));
    add_source({place}, "# ");
    text_ += "# [TABLE.columns]\n";
    for (const ColumnProfile& column : source.columns)
      if (!column.header.empty())
        text_ += fmt::format("{:<31} # {}\n",
                             fmt::format("# {} = {}", snake_case(column.header), toml_text(column.header)),
                             described(column));
  }

  void add_hints() {
    text_ += hinted_blocks(guess_, profiles_);
    text_ += "\n# If rows were exported twice, say which values make two rows equal";
    for (const GuessedTable& table : guess_.tables) {
      for (const std::size_t each : table.sources) {
        const SourceProfile& source = profiles_[each];
        if (source.repeated_rows > 0)
          text_ += fmt::format("\n# ({}: {} identical to an earlier one)", source.name,
                               counted(source.repeated_rows, "row is", "rows are"));
      }
    }
    text_ += ":\n";
    text_ +=
        "# [[duplicates]]\n# in = \"lines\"\n# same = [\"order_id\", \"product_id\"]\n# keep = \"first\"\n";
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
