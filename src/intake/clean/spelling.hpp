// One spelling for each value, over all tables that contain it.
#pragma once

#include <cstdint>
#include <map>
#include <memory>
#include <string>
#include <unordered_map>
#include <vector>

#include "base/dictionary.hpp"
#include "base/hashed_text.hpp"
#include "intake/clean/intake_log.hpp"
#include "intake/read/raw_table.hpp"

namespace pear::intake {

/// By column, and there by text in lower case: the spelling that most rows have. Only of texts that occur in
/// several spellings.
using UsualSpellings = std::map<std::string, std::unordered_map<std::string, std::string>>;

/// Counts the rows of each text in the columns of the plan's fold_case, over all tables with a column of that
/// name.
class Spellings {
 public:
  explicit Spellings(const IntakePlan& plan);
  [[nodiscard]] bool any() const { return !columns_.empty(); }
  [[nodiscard]] bool has(const std::string& column) const { return columns_.contains(column); }
  void count(const std::string& column, const HashedText& text, std::uint64_t rows);
  void count(const RawTable& table);
  /// Of two equally frequent spellings the first by code point.
  [[nodiscard]] UsualSpellings take_usual();

 private:
  struct Counts {
    Dictionary texts;
    std::vector<std::uint64_t> rows;
  };
  std::map<std::string, std::unique_ptr<Counts>> columns_;
};

/// Replaces values that differ only in case by the usual one, so that tables still join.
void unify_spelling(const UsualSpellings& usual, const std::vector<RawTable*>& tables, IntakeLog& log);

/// Replaces every id of [[same_customer]] by the first one, in all tables.
void merge_customers(const IntakePlan& plan, const std::vector<RawTable*>& tables, IntakeLog& log);

}  // namespace pear::intake
