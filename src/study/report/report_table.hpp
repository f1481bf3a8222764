// Tables of a report.
#pragma once

#include <cstddef>
#include <string>

#include "result/table.hpp"

namespace pear::study {

/// The first rows of a table as an HTML table, with the most important columns if there are many.
[[nodiscard]] std::string render_html_table(const result::Table& table, std::size_t rows);

}  // namespace pear::study
