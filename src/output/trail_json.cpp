#include "output/trail_json.hpp"

namespace pear {
namespace {

std::string_view standard_type(Unit unit) {
  switch (unit) {
    case Unit::text:
      return "string";
    case Unit::count:
    case Unit::days:
      return "integer";
    case Unit::date:
      return "date";
    case Unit::money:
    case Unit::number:
    case Unit::share:
    case Unit::chance:
      return "number";
  }
  return "string";
}

Json population_of(const Population& population) {
  Json told = {{"customers", population.customers},
               {"orders", population.orders},
               {"lines", population.lines},
               {"returns", population.returns},
               {"first_date", population.first_date ? to_text(*population.first_date) : ""},
               {"last_date", population.last_date ? to_text(*population.last_date) : ""}};
  if (population.amount) told["amount"] = population.amount->to_text(2);
  return told;
}

}  // namespace

Json fields_json(const Table& table) {
  Json fields = Json::array();
  for (const TableColumn& column : table.columns)
    fields.push_back({{"name", column.name},
                      {"type", standard_type(column.unit)},
                      {"unit", to_text(column.unit)},
                      {"description", column.description}});
  return fields;
}

Json trail_json(const Result& result, const Trail& trail) {
  Json checks = Json::array();
  for (const Check& check : result.checks)
    checks.push_back({{"statement", check.statement}, {"holds", check.holds}});
  Json definitions = Json::object();
  for (const auto& [name, meaning] : result.definitions) definitions[name] = meaning;
  Json whole = nullptr;
  if (result.whole) whole = population_of(*result.whole);
  return {{"question", result.question},
          {"command", trail.command_line},
          {"daybook", {{"file", trail.daybook}, {"fingerprint", trail.fingerprint}}},
          {"selection", trail.selection},
          {"population", population_of(result.population)},
          {"selected_from", whole},
          {"currency", result.currency},
          {"headline", result.headline},
          {"definitions", definitions},
          {"notes", result.notes},
          {"checks", checks}};
}

}  // namespace pear
