#include "intake/plan/source_section.hpp"

#include <algorithm>
#include <filesystem>
#include <glob.h>
#include <utility>

#include <fmt/format.h>

#include "base/natural_order.hpp"
#include "base/text.hpp"
#include "database/address.hpp"
#include "intake/plan/role.hpp"
#include "intake/read/month_names.hpp"
#include "intake/read/number_reader.hpp"

namespace pear::intake {
namespace {

std::optional<char> one_character(files::TomlSection& section, std::string_view key) {
  const auto text = section.optional_text(key);
  if (!text) return std::nullopt;
  if (text->size() == 1) return text->front();
  section.fault(key, "expected one character.");
  return std::nullopt;
}

class SectionReader {
 public:
  SectionReader(files::TomlSection& section, const std::string& intake_file)
      : section_(section), intake_file_(intake_file) {}

  SourcePlan read() {
    read_sources();
    read_formats();
    read_numbers();
    if (section_.truth_or_texts("trim", plan_.trim)) plan_.trim_all = true;
    plan_.fold_case = section_.texts("fold_case");
    plan_.empty_as = section_.texts("empty_as");
    plan_.skip_rows = section_.texts("skip_rows");
    plan_.skip_if = section_.text("skip_if");
    read_columns();
    read_replacements();
    read_computed();
    return std::move(plan_);
  }

 private:
  void read_formats() {
    plan_.dates.formats = section_.texts("date_format");
    const auto language = section_.optional_text("date_language");
    if (!language) return;
    plan_.dates.language = *language;
    if (!is_language(*language))
      section_.fault("date_language", "expected the code of a language, such as \"de\" or \"fr\".");
  }

  void read_numbers() {
    NumberFormat& numbers = plan_.numbers;
    if (const auto decimal = one_character(section_, "decimal")) numbers.decimal = *decimal;
    numbers.thousands = section_.text("thousands");
    if (leading_blank(numbers.thousands) == numbers.thousands.size() && !numbers.thousands.empty())
      numbers.thousands = " ";
    if (leading_separator(numbers.thousands, "'") == numbers.thousands.size() && !numbers.thousands.empty())
      numbers.thousands = "'";
    if (numbers.thousands.size() > 1) section_.fault("thousands", "expected one character.");
    if (numbers.thousands == std::string(1, numbers.decimal))
      section_.fault("thousands", "decimal and thousands are the same character.");
    numbers.strip = section_.texts("strip");
    std::erase(numbers.strip, "");
    // Longer words first, so that "US$" is not taken for "$".
    std::stable_sort(numbers.strip.begin(), numbers.strip.end(),
                     [](const std::string& a, const std::string& b) { return a.size() > b.size(); });
    std::vector<std::string> none;
    numbers.percent = section_.truth_or_texts("percent", none);
    if (!none.empty()) section_.fault("percent", "expected true or false.");
    for (const std::string& way : section_.texts("negative")) {
      if (way == "brackets") {
        numbers.brackets = true;
      } else if (way == "trailing minus") {
        numbers.trailing_minus = true;
      } else {
        section_.fault("negative",
                       fmt::format("{} is not \"brackets\" or \"trailing minus\".", in_quotes(way)));
      }
    }
  }

  void read_sources() {
    sources::TableAddress address;
    address.delimiter = one_character(section_, "delimiter");
    if (const auto name = section_.optional_text("encoding")) {
      address.encoding = sources::parse_encoding(*name);
      if (!address.encoding)
        section_.fault("encoding", fmt::format("{} is not a known encoding: {}.", in_quotes(*name),
                                               join(sources::encoding_names(), ", ")));
    }
    if (const auto line = section_.scalars("header_line"); !line.empty()) {
      const auto number = Decimal::parse(line.front());
      if (line.size() == 1 && number && number->units() > 0 && number->units() % Decimal::kScale == 0)
        address.header_line = static_cast<std::uint64_t>(number->units() / Decimal::kScale);
      else
        section_.fault("header_line", "expected the number of the header's line, from 1.");
    }
    const auto files = section_.texts("file");
    const std::string database = section_.text("database");
    const std::string query = section_.text("query");
    const std::string of_table = section_.text("table");
    if (files.empty() == database.empty())
      return section_.fault(files.empty() ? "file" : "database", "give either file or database.");
    if (address.header_line > 0 && files.empty()) section_.fault("header_line", "only a file has one.");
    const auto sheet = section_.scalars("sheet");
    if (sheet.size() > 1) section_.fault("sheet", "expected one sheet.");
    if (sheet.size() == 1) address.sheet = sheet.front();
    if (!address.sheet.empty() && files.empty()) section_.fault("sheet", "only a file has sheets.");
    if (!database.empty()) {
      if (query.empty() == of_table.empty())
        return section_.fault("database", "give either query or table with it.");
      address.database = database::is_database_address(database) ? database : beside(database);
      address.query = query.empty() ? "SELECT * FROM " + database::sql_name(of_table) : query;
      address.table = of_table;
      if (const auto fault = database::parse_database_address(address.database); !fault)
        section_.fault("database", fault.error().message);
      plan_.sources.push_back(address);
      return;
    }
    for (const std::string& file : files) {
      const sources::TableAddress named = sources::file_address(beside(file));
      sources::TableAddress source = address;
      if (!named.sheet.empty()) source.sheet = named.sheet;
      for (std::string& path : matching(named.file)) {
        source.file = std::move(path);
        plan_.sources.push_back(source);
      }
    }
  }

  [[nodiscard]] std::string beside(const std::string& path) const {
    if (path == "-" || std::filesystem::path(path).is_absolute()) return path;
    return (std::filesystem::path(intake_file_).parent_path() / path).string();
  }

  std::vector<std::string> matching(const std::string& path) {
    if (path.find_first_of("*?[") == std::string::npos) return {path};
    glob_t found{};
    std::vector<std::string> paths;
    if (glob(path.c_str(), GLOB_NOSORT, nullptr, &found) == 0)
      paths.assign(found.gl_pathv, found.gl_pathv + found.gl_pathc);
    globfree(&found);
    std::sort(paths.begin(), paths.end(), NaturalLess{});
    if (paths.empty()) section_.fault("file", fmt::format("no file matches {}.", in_quotes(path)));
    return paths;
  }

  /// A name for a column of the daybook.
  static void check_name(files::TomlSection& section, const std::string& name) {
    if (snake_case(name) != name)
      section.fault(name, fmt::format("write names like {}.", in_quotes(snake_case(name))));
    const auto reserved = reserved_names();
    if (std::find(reserved.begin(), reserved.end(), name) != reserved.end())
      section.fault(name, "this name is reserved; choose another.");
  }

  void read_columns() {
    section_.within("columns", [&](files::TomlSection& columns) {
      columns.each_other([&](const std::string& name, std::vector<std::string> headers) {
        check_name(columns, name);
        if (headers.size() == 1) plan_.columns.emplace_back(name, headers.front());
        if (headers.size() > 1) columns.fault(name, "expected one column.");
      });
    });
  }

  void read_replacements() {
    section_.within("replace", [&](files::TomlSection& replace) {
      replace.each_other_section([&](const std::string& column, files::TomlSection& values) {
        values.each_other([&](const std::string& value, std::vector<std::string> by) {
          if (by.size() == 1) plan_.replace[column][value] = by.front();
          if (by.size() > 1) values.fault(value, "expected one value.");
        });
      });
    });
  }

  void read_computed() {
    section_.within("compute", [&](files::TomlSection& compute) {
      compute.each_other([&](const std::string& name, std::vector<std::string> expression) {
        check_name(compute, name);
        if (expression.size() == 1) plan_.computed.push_back({name, expression.front()});
        if (expression.size() > 1) compute.fault(name, "expected one expression.");
      });
    });
  }

  files::TomlSection& section_;
  const std::string& intake_file_;
  SourcePlan plan_;
};

}  // namespace

SourcePlan read_source_section(files::TomlSection& section, const std::string& intake_file) {
  return SectionReader(section, intake_file).read();
}

}  // namespace pear::intake
