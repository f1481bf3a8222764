#include "intake/known_sources.hpp"

#include <algorithm>
#include <filesystem>
#include <string>
#include <system_error>

#include "sources/byte_source.hpp"

namespace pear::intake {
namespace {

/// "sales" of exports/sales.csv.gz: the same export, wherever it is and however it is compressed.
std::string export_name(const std::string& source) {
  const std::string file = std::filesystem::path(source).filename().string();
  return file.substr(0, file.find('.'));
}

}  // namespace

std::vector<daybook::SourceRecord> sources_not_read(const daybook::Provenance& provenance,
                                                    const IntakePlan& plan) {
  std::vector<daybook::SourceRecord> others;
  const auto now = plan.table(TableKind::lines)->sources();
  for (const daybook::SourceRecord& source : provenance.sources) {
    const bool is_read = std::any_of(now.begin(), now.end(), [&](const sources::TableAddress& address) {
      return export_name(source.name) == export_name(address.file.empty() ? address.database : address.file);
    });
    if (source.table == to_text(TableKind::lines) && !is_read) others.push_back(source);
  }
  return others;
}

std::optional<std::string> content_hash_of(const sources::TableAddress& address) {
  std::error_code failure;
  if (address.file.empty() || !std::filesystem::is_regular_file(address.file, failure)) return std::nullopt;
  const auto source = sources::open_bytes(address.file);
  if (!source) return std::nullopt;
  std::vector<char> piece(1U << 20U);
  for (;;) {
    const auto taken = (*source)->read(piece);
    if (!taken) return std::nullopt;
    if (*taken == 0) return (*source)->content_hash();
  }
}

std::vector<std::string> drop_known_sources(const daybook::Provenance& provenance, IntakePlan& plan) {
  std::vector<std::string> dropped;
  const auto is_known = [&](const sources::TableAddress& address) {
    const auto hash = content_hash_of(address);
    const bool known = hash && std::any_of(provenance.sources.begin(), provenance.sources.end(),
                                           [&](const daybook::SourceRecord& source) {
                                             return source.table == to_text(TableKind::lines) &&
                                                    source.content_hash == *hash;
                                           });
    if (known) dropped.push_back(address.file);
    return known;
  };
  auto& from = plan.tables[static_cast<std::size_t>(TableKind::lines)]->from;
  for (SourcePlan& part : from) std::erase_if(part.sources, is_known);
  std::erase_if(from, [](const SourcePlan& part) { return part.sources.empty(); });
  return dropped;
}

}  // namespace pear::intake
