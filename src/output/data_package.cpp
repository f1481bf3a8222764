#include "output/data_package.hpp"

#include <filesystem>
#include <fstream>
#include <sstream>

#include <fmt/format.h>
#include <nlohmann/json.hpp>

#include "base/text.hpp"
#include "output/atomic_file.hpp"

namespace pear {
namespace {

using Json = nlohmann::ordered_json;

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

/// The name of a resource as the standard wants it: lower-case letters, digits and - . _ alone.
std::string resource_name(const std::string& stem) {
  std::string name;
  for (const char c : stem) {
    const bool upper = c >= 'A' && c <= 'Z';
    const bool fits = (c >= 'a' && c <= 'z') || (c >= '0' && c <= '9') || c == '-' || c == '.' || c == '_';
    name += upper ? static_cast<char>(c - 'A' + 'a') : fits ? c : '-';
  }
  return name;
}

Json resource(const Table& table, const std::string& stem) {
  Json fields = Json::array();
  for (const TableColumn& column : table.columns)
    fields.push_back({{"name", column.name},
                      {"type", standard_type(column.unit)},
                      {"unit", to_text(column.unit)},
                      {"description", column.description}});
  const std::string name = file_stem(stem, table.part);
  return {{"name", resource_name(name)},
          {"path", name + ".csv"},
          {"profile", "tabular-data-resource"},
          {"title", table.title},
          {"description", table.description},
          {"format", "csv"},
          {"mediatype", "text/csv"},
          {"encoding", "utf-8"},
          {"trail", stem},
          {"schema", {{"fields", fields}, {"missingValues", {""}}}}};
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

Json trail_of(const Result& result, const Trail& trail) {
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

OrError<Json> existing_package(const std::string& path) {
  if (!std::filesystem::exists(path))
    return Json{{"name", "pear-thread-tables"},
                {"profile", "tabular-data-package"},
                {"resources", Json::array()},
                {"trails", Json::object()}};
  std::ifstream file(path);
  std::ostringstream text;
  text << file.rdbuf();
  Json package = Json::parse(text.str(), nullptr, false);
  if (!package.is_object() || !package.contains("resources") || !package["resources"].is_array())
    return data_error(
        fmt::format("{} is there and is not a Data Package. Move it, or write elsewhere with --out.", path));
  return package;
}

}  // namespace

std::string file_stem(const std::string& stem, const std::string& part) {
  return part.empty() ? stem : fmt::format("{}-{}", stem, part);
}

OrError<void> describe_in_package(const Result& result, const Trail& trail, const std::string& folder,
                                  const std::string& stem) {
  const std::string path = folder + "/datapackage.json";
  PEAR_ASSIGN(Json package, existing_package(path));
  Json resources = Json::array();
  for (const Json& other : package["resources"]) {
    if (!other.is_object() || other.value("trail", "") != stem) resources.push_back(other);
  }
  for (const Table& table : result.tables) resources.push_back(resource(table, stem));
  package["resources"] = std::move(resources);
  package["trails"][stem] = trail_of(result, trail);
  return write_file(path, package.dump(2) + "\n");
}

}  // namespace pear
