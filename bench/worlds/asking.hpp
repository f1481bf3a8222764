// Asks questions of simulated shops, and reads their tables.
#pragma once

#include <string>
#include <string_view>
#include <vector>

#include "analysis/run_question.hpp"
#include "worlds/world.hpp"

namespace pear::worlds {

/// Throws std::runtime_error if the question cannot be answered.
[[nodiscard]] result::Result ask(const std::string& question, const analysis::OptionValues& options,
                                 const World& world);

/// The table with this part of its file's name, which must exist.
[[nodiscard]] const result::Table& table(const result::Result& result, std::string_view part);

/// The texts of a column, as in its file.
[[nodiscard]] std::vector<std::string> texts(const result::Table& table, std::string_view column);

/// The same as numbers, 0 if empty.
[[nodiscard]] std::vector<double> numbers(const result::Table& table, std::string_view column);

}  // namespace pear::worlds
