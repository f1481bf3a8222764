#include "pushdown/dialect/sqlite_functions.hpp"

#include <cstdint>
#include <optional>
#include <string>
#include <string_view>

#include <soci/sqlite3/soci-sqlite3.h>

#include "base/decimal.hpp"
#include "expression/evaluate/functions.hpp"
#include "expression/evaluate/operators.hpp"

namespace pear::pushdown {
namespace {

using Context = sqlite_api::sqlite3_context;
using Value = sqlite_api::sqlite3_value;

std::string_view text_in(Value* value) {
  const auto* text = reinterpret_cast<const char*>(sqlite_api::sqlite3_value_text(value));
  return {text, static_cast<std::size_t>(sqlite_api::sqlite3_value_bytes(value))};
}

Decimal units_in(Value* value) { return Decimal::from_units(sqlite_api::sqlite3_value_int64(value)); }

void give(Context* context, const std::string& text) {
  const auto copied =
      reinterpret_cast<sqlite_api::sqlite3_destructor_type>(-1);  // SQLITE_TRANSIENT, in SOCI's namespace
  sqlite_api::sqlite3_result_text(context, text.data(), static_cast<int>(text.size()), copied);
}

void give(Context* context, std::optional<Decimal> number, const char* fault) {
  if (number)
    sqlite_api::sqlite3_result_int64(context, number->units());
  else
    sqlite_api::sqlite3_result_error(context, fault, -1);
}

/// Calls the function unless an argument is NULL.
template <auto Function>
void call(Context* context, int count, Value** arguments) {
  for (int i = 0; i < count; ++i)
    if (sqlite_api::sqlite3_value_type(arguments[i]) == SQLITE_NULL)
      return sqlite_api::sqlite3_result_null(context);
  Function(context, arguments);
}

void units(Context* context, Value** arguments) {
  const std::string_view text = expression::trimmed(text_in(arguments[0]));
  if (text.empty()) return sqlite_api::sqlite3_result_null(context);
  const auto number = Decimal::parse_rounded(text);
  give(context, number ? std::optional(*number) : std::nullopt, "a text is not a number");
}

void product(Context* context, Value** arguments) {
  give(context, checked_multiply(units_in(arguments[0]), units_in(arguments[1])),
       "a product leaves the range of numbers");
}

void quotient(Context* context, Value** arguments) {
  give(context, expression::quotient(units_in(arguments[0]), units_in(arguments[1])),
       "division by zero, or a quotient out of range");
}

Int128 whole_in(Value* value) { return sqlite_api::sqlite3_value_int64(value); }

void proportion(Context* context, Value** arguments) {
  const Int128 value = divided_evenly(whole_in(arguments[0]) * whole_in(arguments[1]),
                                      sqlite_api::sqlite3_value_int64(arguments[2]));
  if (value > INT64_MAX || value <= INT64_MIN) return sqlite_api::sqlite3_result_null(context);
  sqlite_api::sqlite3_result_int64(context, static_cast<std::int64_t>(value));
}

void compared(Context* context, Value** arguments) {
  constexpr Int128 kWhole = 1'000'000;
  sqlite_api::sqlite3_result_int(
      context, compare_products(whole_in(arguments[0]) * whole_in(arguments[1]), kWhole,
                                whole_in(arguments[3]) * whole_in(arguments[4]), whole_in(arguments[2])));
}

void text(Context* context, Value** arguments) { give(context, units_in(arguments[0]).to_text()); }
void lower(Context* context, Value** arguments) {
  give(context, expression::to_lower(text_in(arguments[0])));
}
void upper(Context* context, Value** arguments) {
  give(context, expression::to_upper(text_in(arguments[0])));
}
void trim(Context* context, Value** arguments) {
  give(context, std::string(expression::trimmed(text_in(arguments[0]))));
}

void like(Context* context, Value** arguments) {
  sqlite_api::sqlite3_result_int(context,
                                 expression::is_like(text_in(arguments[0]), text_in(arguments[1])) ? 1 : 0);
}

}  // namespace

void add_functions(soci::session& session) {
  const auto* backend = static_cast<soci::sqlite3_session_backend*>(session.get_backend());
  const auto add = [&](const char* name, int arguments, void (*function)(Context*, int, Value**)) {
    sqlite_api::sqlite3_create_function(backend->conn_, name, arguments, SQLITE_UTF8 | SQLITE_DETERMINISTIC,
                                        nullptr, function, nullptr, nullptr);
  };
  add("pear_units", 1, call<units>);
  add("pear_product", 2, call<product>);
  add("pear_quotient", 2, call<quotient>);
  add("pear_proportion", 3, call<proportion>);
  add("pear_compared", 5, call<compared>);
  add("pear_text", 1, call<text>);
  add("pear_lower", 1, call<lower>);
  add("pear_upper", 1, call<upper>);
  add("pear_trimmed", 1, call<trim>);
  add("pear_like", 2, call<like>);
}

}  // namespace pear::pushdown
