#include "intake/plan/starter_hints.hpp"

#include <algorithm>
#include <map>

#include <fmt/format.h>

#include "base/text.hpp"
#include "intake/inspect/sample_columns.hpp"
#include "intake/plan/starter.hpp"
#include "intake/read/table_columns.hpp"

namespace pear::intake {
namespace {

using ValuesByColumn = std::map<std::string, std::vector<std::string>>;

/// Which columns a kind of value may be in: fees in those that describe products, test customers in those
/// that describe customers, returns in the others.
class HintedColumns {
 public:
  HintedColumns(const GuessedTable& table, const SourceProfile& source) : table_(table), sample_(source) {}

  [[nodiscard]] bool may_have(Hint hint, std::size_t column) const {
    if (hint == Hint::fee) return describes(TableKind::products, daybook::role::kProductId, column);
    if (hint == Hint::test) return describes(TableKind::customers, daybook::role::kCustomerId, column);
    constexpr std::size_t kMostKinds = 50;
    return sample_.distinct(column) <= kMostKinds &&
           !describes(TableKind::products, daybook::role::kProductId, column) &&
           !describes(TableKind::customers, daybook::role::kCustomerId, column);
  }

 private:
  [[nodiscard]] bool describes(TableKind list, std::string_view id, std::size_t column) const {
    if (table_.kind == list) return true;
    for (std::size_t i = 0; i < table_.columns.size(); ++i) {
      if (!table_.columns[i].is_role || table_.columns[i].name != id) continue;
      constexpr double kNearlyAlways = 0.95;
      return i == column || (sample_.repeats(i) && sample_.determines(i, column) > kNearlyAlways);
    }
    return false;
  }

  const GuessedTable& table_;
  SampleColumns sample_;
};

ValuesByColumn hinted_values(const Guess& guess, const std::vector<SourceProfile>& profiles, Hint hint) {
  ValuesByColumn values;
  for (const GuessedTable& table : guess.tables) {
    const HintedColumns hinted(table, profiles[table.sources.front()]);
    for (std::size_t i = 0; i < table.columns.size(); ++i) {
      const GuessedColumn& column = table.columns[i];
      if (!hinted.may_have(hint, i)) continue;
      for (const std::size_t source : table.sources) {
        const auto& hints = profiles[source].columns[i].hints;
        const auto found = hints.find(hint);
        if (found == hints.end() || column.name.empty()) continue;
        std::vector<std::string>& known =
            values[column.why.empty() ? plain_name(table.kind, column.header) : column.name];
        for (const std::string& value : found->second.values)
          if (std::find(known.begin(), known.end(), value) == known.end()) known.push_back(value);
      }
    }
  }
  return values;
}

std::string sql_text(const std::string& text) {
  std::string quoted = "'";
  for (const char c : text) quoted += c == '\'' ? std::string("''") : std::string(1, c);
  return quoted + "'";
}

std::string condition_of(const ValuesByColumn& values) {
  std::vector<std::string> conditions;
  for (const auto& [column, texts] : values) {
    std::vector<std::string> quoted;
    for (const std::string& text : texts) quoted.push_back(sql_text(text));
    conditions.push_back(quoted.size() == 1 ? fmt::format("{} = {}", column, quoted.front())
                                            : fmt::format("{} IN ({})", column, join(quoted, ", ")));
  }
  return join(conditions, " OR ");
}

}  // namespace

std::string hinted_blocks(const Guess& guess, const std::vector<SourceProfile>& profiles) {
  struct Block {
    Hint hint;
    std::string_view section, what, rest;
  };
  constexpr Block kBlocks[] = {
      {Hint::returned, "[returns]",
       "These values look like returns or credit notes, whose amounts count as negative", ""},
      {Hint::fee, "[fees]", "These values look like fees, which count as sales, but never as a product", ""},
      {Hint::test, "[[exclude]]", "These values look like test customers or staff, whose lines are left out",
       "# reason = \"test customer\"\n"}};
  std::string text;
  for (const Block& block : kBlocks) {
    const ValuesByColumn values = hinted_values(guess, profiles, block.hint);
    if (values.empty()) continue;
    text += fmt::format("\n# {}.\n# Check them, and remove the # signs:\n# {}\n# condition = {}\n{}",
                        block.what, block.section, toml_text(condition_of(values)), block.rest);
  }
  return text;
}

}  // namespace pear::intake
