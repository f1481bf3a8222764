#include "intake/inspect/inspection.hpp"

#include <algorithm>
#include <filesystem>

#include <fmt/format.h>

#include "base/text.hpp"
#include "database/connection.hpp"
#include "intake/inspect/repeated_orders.hpp"
#include "intake/plan/intake_file.hpp"
#include "intake/plan/starter.hpp"

namespace pear::intake {
namespace {

std::string why_no_trial(const Inspection& inspection) {
  if (!inspection.guess.missing.empty())
    return fmt::format("no column seems to be {}", join(inspection.guess.missing, ", "));
  if (!inspection.guess.questions.empty())
    return fmt::format("{} open", counted(inspection.guess.questions.size(), "question is", "questions are"));
  for (const SourceProfile& profile : inspection.profiles) {
    if (!profile.is_whole)
      return fmt::format("{} is larger than 200 MB; samples of it were read", profile.name);
    std::error_code failure;
    if (!profile.address.file.empty() && !std::filesystem::is_regular_file(profile.address.file, failure))
      return fmt::format("{} can be read only once", profile.name);
  }
  return "";
}

}  // namespace

OrError<Inspection> inspect_sources(const std::vector<sources::TableAddress>& addresses,
                                    const std::function<void(const ImportProgress&)>& progress) {
  Inspection inspection;
  for (const sources::TableAddress& address : addresses) {
    PEAR_ASSIGN(SourceProfile profile, profile_source(address));
    progress({profile.name, profile.rows, 0, 0});
    if (profile.columns.empty()) {
      inspection.empty.push_back(profile.name);
    } else {
      inspection.profiles.push_back(std::move(profile));
    }
  }
  if (inspection.profiles.empty())
    return data_error(fmt::format("{} empty: no header and no rows.",
                                  inspection.empty.size() == 1 ? inspection.empty.front() + " is"
                                                               : join(inspection.empty, ", ") + " are"));
  inspection.guess = guess_tables(inspection.profiles);
  for (GuessedTable& table : inspection.guess.tables) {
    PEAR_ASSIGN(table.repeated_orders, repeated_orders(table, inspection.profiles));
  }
  inspection.no_trial = why_no_trial(inspection);
  if (!inspection.no_trial.empty()) return inspection;
  // The starter file itself is tried, so that it is known to import without changes.
  PEAR_ASSIGN(const IntakePlan plan,
              parse_intake(starter_intake(inspection.guess, inspection.profiles, ""), "intake.toml"));
  auto trial = import_tables(plan, {[](const RejectedRow&) -> OrError<void> { return {}; },
                                    [](const ChangedCell&) -> OrError<void> { return {}; }, progress});
  if (trial) {
    inspection.trial = std::move(*trial);
  } else {
    inspection.no_trial = trial.error().message;
  }
  return inspection;
}

OrError<std::vector<sources::TableAddress>> sources_of_database(const std::string& address) {
  PEAR_ASSIGN(const database::DatabaseAddress database, database::parse_database_address(address));
  std::vector<std::string> tables = {database.table};
  if (database.table.empty()) {
    PEAR_ASSIGN(const auto session, database::connect(database, false));
    PEAR_ASSIGN(tables, database::table_names(*session, database));
  }
  std::vector<sources::TableAddress> sources;
  for (const std::string& table : tables) {
    sources::TableAddress source;
    source.database = address;
    source.query = "SELECT * FROM " + database::sql_name(table);
    source.table = table;
    sources.push_back(std::move(source));
  }
  if (sources.empty()) return data_error(fmt::format("{} has no tables.", database::shown(database)));
  return sources;
}

}  // namespace pear::intake
