#include "intake/clean/spelling.hpp"

#include <map>
#include <set>
#include <unordered_map>

#include <absl/container/flat_hash_map.h>
#include <absl/container/flat_hash_set.h>

#include "base/hashed_text.hpp"
#include "expression/evaluate/functions.hpp"
#include "intake/clean/recode.hpp"

namespace pear::intake {
namespace {

std::set<std::string> folded_columns(const IntakePlan& plan) {
  std::set<std::string> names;
  for (const auto& table : plan.tables) {
    if (!table) continue;
    for (const SourcePlan& from : table->from) names.insert(from.fold_case.begin(), from.fold_case.end());
  }
  return names;
}

/// Hashes of the folded texts that occur in several spellings; there are few.
absl::flat_hash_set<std::uint64_t> several_spellings(const TextArray& texts) {
  absl::flat_hash_set<std::uint64_t> seen, several;
  seen.reserve(texts.size());
  for (std::size_t i = 0; i < texts.size(); ++i) {
    const std::uint64_t hash = HashedText(expression::to_lower(texts[i])).hash;
    if (!seen.insert(hash).second) several.insert(hash);
  }
  return several;
}

/// Of the folded texts with several spellings, the one that most rows have.
std::unordered_map<std::string, std::string> usual_of(const TextArray& texts,
                                                      const std::vector<std::uint64_t>& rows_of) {
  const auto several = several_spellings(texts);
  if (several.empty()) return {};
  std::unordered_map<std::string, std::map<std::string, std::uint64_t>> rows;
  for (std::size_t i = 0; i < texts.size(); ++i) {
    const std::string folded = expression::to_lower(texts[i]);
    if (several.contains(HashedText(folded).hash)) rows[folded][std::string(texts[i])] += rows_of[i];
  }
  std::unordered_map<std::string, std::string> usual;
  for (const auto& [folded, spellings] : rows) {
    const std::string* best = nullptr;
    std::uint64_t most = 0;
    for (const auto& [spelling, count] : spellings) {
      if (best != nullptr && count <= most) continue;
      best = &spelling;
      most = count;
    }
    usual[folded] = *best;
  }
  return usual;
}

}  // namespace

Spellings::Spellings(const IntakePlan& plan) {
  for (const std::string& name : folded_columns(plan)) columns_[name] = std::make_unique<Counts>();
}

void Spellings::count(const std::string& column, const HashedText& text, std::uint64_t rows) {
  Counts& counts = *columns_.at(column);
  const std::uint32_t code = counts.texts.code_of(text);
  if (code >= counts.rows.size()) counts.rows.resize(code + 1);
  counts.rows[code] += rows;
}

void Spellings::count(const RawTable& table) {
  for (const RawColumn& column : table.columns) {
    const auto* values = std::get_if<daybook::TextValues>(&column.values);
    if (values == nullptr || !has(column.name)) continue;
    const auto rows = rows_by_code(*values);
    for (std::size_t i = 0; i < rows.size(); ++i)
      if (rows[i] > 0) count(column.name, HashedText(values->dictionary[i]), rows[i]);
  }
}

UsualSpellings Spellings::take_usual() {
  UsualSpellings usual;
  for (auto& [name, counts] : columns_) {
    usual[name] = usual_of(counts->texts.take(), counts->rows);
    if (usual[name].empty()) usual.erase(name);
  }
  return usual;
}

void unify_spelling(const UsualSpellings& usual, const std::vector<RawTable*>& tables, IntakeLog& log) {
  for (const auto& [name, spellings] : usual) {
    const auto renamed = [&spelled = spellings](std::string_view text) {
      const auto found = spelled.find(expression::to_lower(text));
      return found == spelled.end() ? std::string(text) : found->second;
    };
    for (RawTable* table : tables) {
      RawColumn* column = table->find(name);
      if (column != nullptr && std::holds_alternative<daybook::TextValues>(column->values))
        rename_texts(*table, *column, renamed, "fold_case", log);
    }
  }
}

void merge_customers(const IntakePlan& plan, const std::vector<RawTable*>& tables, IntakeLog& log) {
  std::unordered_map<std::string, std::string> first_id;
  for (const SameCustomer& same : plan.same_customers) {
    for (const std::string& id : same.also) first_id[id] = same.id;
  }
  if (first_id.empty()) return;
  const auto renamed = [&](std::string_view text) {
    const auto found = first_id.find(std::string(text));
    return found == first_id.end() ? std::string(text) : found->second;
  };
  for (RawTable* table : tables) {
    if (RawColumn* column = table->find(daybook::role::kCustomerId))
      rename_texts(*table, *column, renamed, "same_customer", log);
  }
}

}  // namespace pear::intake
