#include "intake/inspect/repeated_orders.hpp"

#include <algorithm>
#include <optional>
#include <utility>

#include <absl/container/flat_hash_map.h>
#include <absl/container/flat_hash_set.h>
#include <fmt/format.h>
#include <xxhash.h>

#include "base/text.hpp"
#include "intake/read/skip_rows.hpp"

namespace pear::intake {
namespace {

using Hashes = absl::flat_hash_set<std::uint64_t>;

std::uint64_t cell_hash(std::string_view text, std::uint64_t seed = 0) {
  return XXH3_64bits_withSeed(text.data(), text.size(), seed);
}

std::optional<std::size_t> column_of(const GuessedTable& table, std::string_view role) {
  for (std::size_t i = 0; i < table.columns.size(); ++i)
    if (table.columns[i].is_role && table.columns[i].name == role) return i;
  return std::nullopt;
}

/// The hashes of the order ids that are in two sources or more.
Hashes shared_orders(const GuessedTable& table, const std::vector<SourceProfile>& profiles,
                     std::size_t order) {
  Hashes seen, shared;
  for (const std::size_t source : table.sources) {
    const auto& values = profiles[source].columns[order].values;
    for (const auto& [hash, rows] : values)
      if (seen.contains(hash)) shared.insert(hash);
    for (const auto& [hash, rows] : values) seen.insert(hash);
  }
  return shared;
}

/// use(hash of the order, hash of order and product) for each row of a shared order.
template <class Use>
OrError<void> each_shared_row(const SourceProfile& profile, const Hashes& shared, std::size_t order,
                              std::size_t product, Use use) {
  std::vector<std::string> patterns;
  for (const OddRows& odd : profile.odd_rows) patterns.push_back(odd.pattern);
  PEAR_ASSIGN(sources::Sample sample, sources::open_sample(profile.address));
  return sample.reader.for_each_part(
      [&](sources::CsvRows rows) {
        skip_rows(rows, patterns);
        return rows;
      },
      [&](const sources::CsvRows& rows, std::uint64_t /*first_line*/) {
        for (std::size_t row = 0; row < rows.size(); ++row) {
          const std::uint64_t hash = cell_hash(rows.field(row, order));
          if (shared.contains(hash)) use(hash, cell_hash(rows.field(row, product), hash));
        }
      });
}

}  // namespace

OrError<std::string> repeated_orders(const GuessedTable& table, const std::vector<SourceProfile>& profiles) {
  const auto order = column_of(table, daybook::role::kOrderId);
  const auto product = column_of(table, daybook::role::kProductId);
  if (table.kind != TableKind::lines || table.sources.size() < 2 || !order || !product) return std::string();
  const Hashes shared = shared_orders(table, profiles, *order);
  if (shared.empty()) return std::string();
  Hashes earlier, repeated;
  for (const std::size_t source : table.sources) {
    Hashes own;
    PEAR_TRY(each_shared_row(profiles[source], shared, *order, *product,
                             [&](std::uint64_t id, std::uint64_t line) {
                               if (earlier.contains(line)) repeated.insert(id);
                               own.insert(line);
                             }));
    earlier.insert(own.begin(), own.end());
  }
  if (repeated.size() * 2 <= shared.size()) return std::string();
  return fmt::format("{} in two files, {} of them with the same products",
                     counted(shared.size(), "order is", "orders are"),
                     with_thousands(static_cast<std::int64_t>(repeated.size())));
}

}  // namespace pear::intake
