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

/// use(column) for each text column of this name.
template <class Use>
void each_column(const std::string& name, const std::vector<RawTable*>& tables, Use use) {
  for (RawTable* table : tables) {
    RawColumn* column = table->find(name);
    if (column != nullptr && std::holds_alternative<daybook::TextValues>(column->values))
      use(*table, *column);
  }
}

/// Hashes of the folded texts that occur in several spellings; there are few.
absl::flat_hash_set<std::uint64_t> several_spellings(const std::string& name,
                                                     const std::vector<RawTable*>& tables) {
  absl::flat_hash_map<std::uint64_t, std::string_view> first;
  absl::flat_hash_set<std::uint64_t> several;
  each_column(name, tables, [&](RawTable& /*table*/, RawColumn& column) {
    const TextArray& texts = std::get<daybook::TextValues>(column.values).dictionary;
    first.reserve(first.size() + texts.size());
    for (std::size_t i = 0; i < texts.size(); ++i) {
      const std::uint64_t hash = HashedText(expression::to_lower(texts[i])).hash;
      if (first.try_emplace(hash, texts[i]).first->second != texts[i]) several.insert(hash);
    }
  });
  return several;
}

/// Of the folded texts with several spellings, the one that most rows have.
std::unordered_map<std::string, std::string> usual_spellings(const std::string& name,
                                                             const std::vector<RawTable*>& tables) {
  const auto several = several_spellings(name, tables);
  if (several.empty()) return {};
  std::unordered_map<std::string, std::map<std::string, std::uint64_t>> rows;
  each_column(name, tables, [&](RawTable& /*table*/, RawColumn& column) {
    const auto& values = std::get<daybook::TextValues>(column.values);
    const auto counts = rows_by_code(values);
    for (std::size_t i = 0; i < counts.size(); ++i) {
      const std::string folded = expression::to_lower(values.dictionary[i]);
      if (several.contains(HashedText(folded).hash))
        rows[folded][std::string(values.dictionary[i])] += counts[i];
    }
  });
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

void unify_spelling(const IntakePlan& plan, const std::vector<RawTable*>& tables, IntakeLog& log) {
  for (const std::string& name : folded_columns(plan)) {
    const auto usual = usual_spellings(name, tables);
    if (usual.empty()) continue;
    const auto renamed = [&](std::string_view text) {
      const auto found = usual.find(expression::to_lower(text));
      return found == usual.end() ? std::string(text) : found->second;
    };
    each_column(name, tables, [&](RawTable& table, RawColumn& column) {
      rename_texts(table, column, renamed, "fold_case", log);
    });
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
