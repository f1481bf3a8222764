// The accounts of all parts of an import, added up.
#pragma once

#include <cstddef>
#include <cstdint>
#include <map>
#include <string>
#include <tuple>
#include <utility>
#include <vector>

#include "intake/import.hpp"

namespace pear::intake {

/// Adds up what the parts of the lines and orders gave, so that the account is that of an import of all rows
/// at once. The other tables are the same in every part.
class PartsTotal {
 public:
  /// `read`: the sources of lines and orders as they were read; their rows are counted as kept until parts
  /// say otherwise.
  explicit PartsTotal(const std::vector<SourceAccount>& read);
  void add(Imported part);
  void add_duplicates(std::vector<DuplicateRow> rows);
  [[nodiscard]] Imported take();

 private:
  using KeyPlace = std::tuple<TableKind, TableKind, std::string>;  ///< table, missing in, key
  struct Unmatched {
    UnmatchedKey key;
    std::size_t parts = 0;
  };

  void add_sources(const std::vector<SourceAccount>& sources);
  void add_joins(const std::vector<JoinCount>& joins);
  void add_unmatched(const std::vector<UnmatchedKey>& keys);
  void add_ungrouped(const std::vector<UngroupedValue>& values);
  void add_waiting(std::vector<daybook::MemberList> waiting);
  [[nodiscard]] std::vector<UnmatchedKey> unmatched_keys() const;
  [[nodiscard]] std::vector<daybook::MemberList> waiting_members() const;
  void number_duplicates();
  /// The order of sources and of their lines.
  [[nodiscard]] std::pair<std::size_t, std::uint64_t> position(TableKind table, const std::string& source,
                                                               std::uint64_t line) const;

  Imported total_;
  std::size_t parts_ = 0;
  std::map<KeyPlace, Unmatched> unmatched_;
  std::map<std::pair<daybook::Level, std::string>, std::size_t> waiting_;  ///< in how many parts
};

}  // namespace pear::intake
