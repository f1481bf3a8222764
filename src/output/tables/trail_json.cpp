#include "output/tables/trail_json.hpp"

namespace pear::output {
namespace {

std::string_view standard_type(result::Unit unit) {
  switch (unit) {
    case result::Unit::text:
      return "string";
    case result::Unit::count:
    case result::Unit::days:
      return "integer";
    case result::Unit::date:
      return "date";
    case result::Unit::money:
    case result::Unit::number:
    case result::Unit::share:
    case result::Unit::probability:
      return "number";
  }
  return "string";
}

Json population_of(const result::Population& population) {
  Json json = {{"customers", population.customers},
               {"orders", population.orders},
               {"lines", population.lines},
               {"returns", population.returns},
               {"first_date", population.first_date ? to_text(*population.first_date) : ""},
               {"last_date", population.last_date ? to_text(*population.last_date) : ""}};
  if (population.amount) json["amount"] = population.amount->to_text(2);
  if (population.fees) json["fees"] = population.fees->to_text(2);
  if (population.one_in > 0) json["sample_of_one_in"] = population.one_in;
  return json;
}

}  // namespace

Json fields_json(const result::Table& table) {
  Json fields = Json::array();
  for (const result::TableColumn& column : table.columns)
    fields.push_back({{"name", column.name},
                      {"type", standard_type(column.unit)},
                      {"unit", result::to_text(column.unit)},
                      {"description", column.description}});
  return fields;
}

Json trail_json(const result::Result& result, const Trail& trail) {
  Json checks = Json::array();
  for (const result::Check& check : result.checks)
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

}  // namespace pear::output
