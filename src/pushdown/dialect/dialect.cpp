#include "pushdown/dialect/dialect.hpp"

#include <absl/strings/str_replace.h>
#include <fmt/format.h>

#include "pushdown/dialect/iso.hpp"
#include "pushdown/dialect/postgresql.hpp"
#include "pushdown/dialect/sqlite.hpp"

namespace pear::pushdown {

std::string Dialect::month_index(const std::string& date) const {
  return fmt::format("({} * 12 + {}) / 10000 - 1", part_of(expression::Op::year_of, date),
                     part_of(expression::Op::month_of, date));
}

std::unique_ptr<Dialect> dialect_of(database::DatabaseKind kind) {
  switch (kind) {
    case database::DatabaseKind::postgresql:
      return postgresql_dialect();
    case database::DatabaseKind::sqlite:
      return sqlite_dialect();
    case database::DatabaseKind::odbc:
      break;
  }
  return iso_dialect();
}

std::string text_literal(std::string_view text) {
  return "'" + absl::StrReplaceAll(std::string(text), {{"'", "''"}}) + "'";
}

}  // namespace pear::pushdown
