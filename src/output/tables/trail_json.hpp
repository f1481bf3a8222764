// The common content of data packages and JSON files about a result.
#pragma once

#include "output/tables/data_package.hpp"
#include "output/tables/json.hpp"
#include "result/result.hpp"

namespace pear::output {

/// Question, command, daybook, selection, population, headline, definitions, notes and checks.
[[nodiscard]] Json trail_json(const result::Result& result, const Trail& trail);

/// The columns of a table: name, type in terms of the Data Package standard, unit and description.
[[nodiscard]] Json fields_json(const result::Table& table);

}  // namespace pear::output
