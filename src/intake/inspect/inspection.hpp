// Inspects raw data before it is imported.
#pragma once

#include <optional>
#include <string>
#include <vector>

#include "base/error.hpp"
#include "intake/import.hpp"
#include "intake/inspect/guess.hpp"
#include "intake/inspect/profile.hpp"

namespace pear::intake {

struct Inspection {
  std::vector<SourceProfile> profiles;
  std::vector<std::string> empty;  ///< names of sources without any content
  Guess guess;
  std::optional<Imported> trial;  ///< the result of an import with the starter file
  std::string no_trial;           ///< why there is none
};

/// Inspects the sources, guesses, and tries the import if nothing is open and everything is small enough to
/// be read whole. `progress` is reported for each source. Errors: those of the sources.
[[nodiscard]] OrError<Inspection> inspect_sources(const std::vector<sources::TableAddress>& addresses,
                                                  const std::function<void(const ImportProgress&)>& progress);

/// The tables of a database, or the one that the address names, as sources. Errors: those of connecting.
[[nodiscard]] OrError<std::vector<sources::TableAddress>> sources_of_database(const std::string& address);

}  // namespace pear::intake
