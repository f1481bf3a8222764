#include "intake/plan/intake_file.hpp"

#include <algorithm>
#include <utility>

#include <fmt/format.h>

#include "base/text.hpp"
#include "files/inputs.hpp"
#include "files/toml_section.hpp"
#include "intake/plan/source_section.hpp"
#include "sources/byte_source.hpp"

namespace pear::intake {
namespace {

constexpr TableKind kAllTables[] = {TableKind::lines, TableKind::orders, TableKind::products,
                                    TableKind::customers, TableKind::prices};

std::optional<TableKind> table_named(std::string_view name) {
  for (const TableKind kind : kAllTables) {
    if (to_text(kind) == name) return kind;
  }
  return std::nullopt;
}

std::vector<std::string> table_names() {
  std::vector<std::string> names;
  for (const TableKind kind : kAllTables) names.emplace_back(to_text(kind));
  return names;
}

class IntakeReader {
 public:
  explicit IntakeReader(std::string path) : path_(std::move(path)) {}

  OrError<IntakePlan> read(const toml::table& root) {
    files::TomlSection file(root, "", path_);
    plan_.file = path_;
    file.within("shop", [&](files::TomlSection& shop) {
      plan_.shop = shop.text("name");
      plan_.currency = shop.text("currency");
    });
    for (const TableKind kind : kAllTables)
      file.within(to_text(kind), [&](files::TomlSection& section) { read_table(kind, section); });
    file.within("joins", [&](files::TomlSection& joins) { read_joins(joins); });
    file.within("duplicates", [&](files::TomlSection& rule) { read_duplicates(rule); });
    file.within("require", [&](files::TomlSection& rule) { read_requirement(rule); });
    file.within("exclude", [&](files::TomlSection& rule) { read_exclusion(rule); });
    file.within("returns", [&](files::TomlSection& returns) { read_returns(returns); });
    file.within("fees", [&](files::TomlSection& fees) {
      plan_.fee_condition = fees.text("condition");
      if (plan_.fee_condition.empty()) fees.fault("condition", "the condition that marks fees is missing.");
    });
    file.within("same_customer", [&](files::TomlSection& same) {
      plan_.same_customers.push_back({same.text("id"), same.texts("also")});
      if (plan_.same_customers.back().id.empty()) same.fault("id", "the id to keep is missing.");
    });
    file.within("groups", [&](files::TomlSection& groups) { read_groups(groups); });
    file.within("bands", [&](files::TomlSection& bands) { read_bands(bands); });
    file.within("levels", [&](files::TomlSection& levels) { read_levels(levels); });
    PEAR_TRY(file.finish());
    if (plan_.table(TableKind::lines) == nullptr)
      return data_error(
          fmt::format("{} has no table [lines], which names the source of the sales lines.", path_));
    return std::move(plan_);
  }

 private:
  void read_table(TableKind kind, files::TomlSection& section) {
    TablePlan table;
    if (kind == TableKind::customers) plan_.latest_customer_by = section.text("latest_by");
    if (kind == TableKind::lines) {
      const std::string repeat = section.optional_text("on_repeat").value_or("add lines");
      plan_.replace_orders = repeat == "replace orders";
      if (repeat != "add lines" && !plan_.replace_orders)
        section.fault("on_repeat",
                      fmt::format("{} is not \"add lines\" or \"replace orders\".", in_quotes(repeat)));
    }
    if (section.has("from")) {
      section.within(
          "from", [&](files::TomlSection& from) { table.from.push_back(read_source_section(from, path_)); });
    } else {
      table.from.push_back(read_source_section(section, path_));
    }
    plan_.tables[static_cast<std::size_t>(kind)] = std::move(table);
  }

  void read_joins(files::TomlSection& joins) {
    const std::pair<TableKind, TableKind> kinds[] = {{TableKind::lines, TableKind::orders},
                                                     {TableKind::lines, TableKind::products},
                                                     {TableKind::orders, TableKind::customers},
                                                     {TableKind::lines, TableKind::customers}};
    for (const auto& [many, one] : kinds) {
      const std::string key = fmt::format("{}_to_{}", to_text(many), to_text(one));
      JoinKeys keys;
      for (const std::string& text : joins.texts(key)) {
        const std::size_t equals = text.find('=');
        const auto name = [](std::string_view part) {
          const std::size_t begin = part.find_first_not_of(' ');
          return begin == std::string_view::npos
                     ? std::string()
                     : std::string(part.substr(begin, part.find_last_not_of(' ') - begin + 1));
        };
        const std::string ours = name(std::string_view(text).substr(0, equals));
        const std::string theirs =
            equals == std::string::npos ? ours : name(std::string_view(text).substr(equals + 1));
        if (ours.empty() || theirs.empty())
          joins.fault(key, fmt::format("{} is neither a column nor \"column of {} = column of {}\".",
                                       in_quotes(text), to_text(many), to_text(one)));
        keys.emplace_back(ours, theirs);
      }
      if (keys.empty()) continue;
      if (plan_.table(one) == nullptr || plan_.table(many) == nullptr)
        joins.fault(
            key, fmt::format("there is no table [{}].", to_text(plan_.table(one) == nullptr ? one : many)));
      plan_.joins[{many, one}] = std::move(keys);
    }
  }

  TableKind read_in(files::TomlSection& rule) {
    const auto name = rule.optional_text("in");
    const auto kind = name ? table_named(*name) : TableKind::lines;
    if (!kind) {
      rule.fault("in", fmt::format("{} is not one of {}.{}", in_quotes(*name), join(table_names(), ", "),
                                   did_you_mean(*name, table_names())));
    } else if (plan_.table(*kind) == nullptr) {
      rule.fault("in", fmt::format("there is no table [{}].", to_text(*kind)));
    }
    return kind.value_or(TableKind::lines);
  }

  void read_duplicates(files::TomlSection& section) {
    DuplicateRule rule;
    rule.table = read_in(section);
    rule.same = section.texts("same");
    if (rule.same.empty())
      section.fault("same", "this key is missing: it says which values are equal in duplicate rows.");
    const std::string keep = section.optional_text("keep").value_or("first");
    const std::string word = keep.substr(0, keep.find(' '));
    rule.keep_last = word == "last";
    const std::string rest = keep.size() > word.size() ? keep.substr(word.size() + 1) : "";
    const bool by = rest.starts_with("by ");
    if ((word != "first" && word != "last") || (!rest.empty() && !by))
      section.fault("keep", fmt::format("{} is not \"first\", \"last\", \"first by ...\" or \"last by ...\".",
                                        in_quotes(keep)));
    if (by) rule.by = rest.substr(3);
    plan_.duplicates.push_back(std::move(rule));
  }

  void read_requirement(files::TomlSection& section) {
    Requirement rule{read_in(section), section.text("condition"), section.text("reason")};
    if (rule.condition.empty())
      section.fault("condition", "this key is missing: it says which condition rows must meet.");
    if (rule.reason.empty()) rule.reason = fmt::format("does not meet {}", rule.condition);
    plan_.requirements.push_back(std::move(rule));
  }

  void read_exclusion(files::TomlSection& section) {
    Exclusion rule{section.text("condition"), section.text("reason")};
    if (rule.condition.empty())
      section.fault("condition", "this key is missing: it says which lines are left out.");
    if (rule.reason.empty())
      section.fault("reason", "this key is missing: it says in the report why lines were left out.");
    plan_.exclusions.push_back(std::move(rule));
  }

  void read_returns(files::TomlSection& section) {
    plan_.return_condition = section.text("condition");
    const std::string sign = section.optional_text("sign").value_or("turn");
    plan_.turn_returns = sign == "turn";
    if (sign != "turn" && sign != "keep")
      section.fault("sign", fmt::format("{} is not \"turn\" or \"keep\".", in_quotes(sign)));
  }

  void read_groups(files::TomlSection& groups) {
    groups.each_other_section([&](const std::string& name, files::TomlSection& section) {
      Group group{name, section.text("from"), {}, section.optional_text("other")};
      if (group.from.empty())
        section.fault("from", "this key is missing: it names the column whose values are grouped.");
      section.each_other([&](const std::string& value, std::vector<std::string> values) {
        group.values.emplace_back(value, std::move(values));
      });
      plan_.groups.push_back(std::move(group));
    });
  }

  void read_bands(files::TomlSection& bands) {
    bands.each_other_section([&](const std::string& name, files::TomlSection& section) {
      Band band{name, section.text("from"), {}};
      if (band.from.empty()) section.fault("from", "this key is missing: it names the column of numbers.");
      for (const std::string& text : section.numbers("edges")) {
        const auto edge = Decimal::parse(text);
        if (!edge || (!band.edges.empty() && *edge <= band.edges.back()))
          return section.fault("edges", "they must rise, and have at most four decimal places.");
        band.edges.push_back(*edge);
      }
      if (band.edges.empty())
        return section.fault(
            "edges",
            "this key is missing: it says where a band ends and the next begins, such as [1, 6, 24].");
      plan_.bands.push_back(std::move(band));
    });
  }

  void read_levels(files::TomlSection& levels) {
    levels.each_other([&](const std::string& column, std::vector<std::string> level) {
      for (const daybook::Level each :
           {daybook::Level::line, daybook::Level::order, daybook::Level::customer, daybook::Level::product}) {
        if (level.size() == 1 && daybook::to_text(each) == level.front()) plan_.levels[column] = each;
      }
      if (!plan_.levels.contains(column))
        levels.fault(column, "the level must be one of \"line\", \"order\", \"customer\", \"product\".");
    });
  }

  std::string path_;
  IntakePlan plan_;
};

OrError<std::string> read_all(const std::string& path) {
  PEAR_ASSIGN(const auto source, sources::open_bytes(path));
  std::string text;
  std::string piece(65'536, '\0');
  for (;;) {
    PEAR_ASSIGN(const std::size_t count, source->read({piece.data(), piece.size()}));
    if (count == 0) return text;
    text.append(piece, 0, count);
  }
}

}  // namespace

OrError<IntakePlan> parse_intake(std::string_view text, const std::string& path) {
  PEAR_ASSIGN(const toml::table root, files::parse_toml(text, path));
  return IntakeReader(path).read(root);
}

OrError<IntakePlan> read_intake_file(const std::string& path) {
  files::protect_input(path);
  PEAR_ASSIGN(const std::string text, read_all(path));
  return parse_intake(text, path);
}

IntakePlan flat_plan(const std::string& file, std::vector<std::pair<std::string, std::string>> columns) {
  IntakePlan plan;
  SourcePlan lines;
  lines.sources.push_back(sources::file_address(file));
  lines.columns = std::move(columns);
  plan.tables[static_cast<std::size_t>(TableKind::lines)] = TablePlan{{std::move(lines)}};
  return plan;
}

}  // namespace pear::intake
