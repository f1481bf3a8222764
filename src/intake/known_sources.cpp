#include "intake/known_sources.hpp"

#include <algorithm>
#include <filesystem>
#include <string>
#include <system_error>

#include "sources/byte_source.hpp"
#include "sources/file_kind.hpp"
#include "sources/table_reader.hpp"

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
  if (sources::kind_of(sources::front_of_file(address.file)) == sources::FileKind::archive) {
    const auto sheet = sources::TableReader::open(address);  // a sheet's hash is known once it is open
    return sheet ? std::optional(sheet->content_hash()) : std::nullopt;
  }
  const auto source = sources::open_bytes(address.file);
  if (!source) return std::nullopt;
  std::vector<char> piece(1U << 20U);
  for (;;) {
    const auto taken = (*source)->read(piece);
    if (!taken) return std::nullopt;
    if (*taken == 0) return (*source)->content_hash();
  }
}

std::vector<std::string> skip_known_sources(const daybook::Provenance& provenance, IntakePlan& plan) {
  std::vector<std::string> known;
  for (SourcePlan& part : plan.tables[static_cast<std::size_t>(TableKind::lines)]->from) {
    for (sources::TableAddress& address : part.sources) {
      const auto hash = content_hash_of(address);
      address.only_header = hash && std::any_of(provenance.sources.begin(), provenance.sources.end(),
                                                [&](const daybook::SourceRecord& source) {
                                                  return source.table == to_text(TableKind::lines) &&
                                                         source.content_hash == *hash;
                                                });
      if (address.only_header) known.push_back(address.file);
    }
  }
  return known;
}

bool has_new_lines(const IntakePlan& plan) {
  const auto sources = plan.table(TableKind::lines)->sources();
  return std::any_of(sources.begin(), sources.end(),
                     [](const sources::TableAddress& address) { return !address.only_header; });
}

}  // namespace pear::intake
