#include "output/tables/data_package.hpp"

#include <filesystem>
#include <set>
#include <utility>

#include <fmt/format.h>

#include "base/text.hpp"
#include "files/atomic_file.hpp"
#include "files/whole_file.hpp"
#include "output/tables/trail_json.hpp"

namespace pear::output {
namespace {

/// The name of a resource according to the standard: only lower-case letters, digits and - . _
std::string resource_name(const std::string& stem) {
  std::string name;
  for (const char c : stem) {
    const bool upper = c >= 'A' && c <= 'Z';
    const bool fits = (c >= 'a' && c <= 'z') || (c >= '0' && c <= '9') || c == '-' || c == '.' || c == '_';
    name += upper ? static_cast<char>(c - 'A' + 'a') : fits ? c : '-';
  }
  return name;
}

Json resource(const result::Table& table, const std::string& stem) {
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
          {"schema", {{"fields", fields_json(table)}, {"missingValues", {""}}}}};
}

OrError<Json> existing_package(const std::string& path) {
  if (!std::filesystem::exists(path))
    return Json{{"name", "pear-thread-tables"},
                {"profile", "tabular-data-package"},
                {"resources", Json::array()},
                {"trails", Json::object()}};
  PEAR_ASSIGN(const std::string text, files::read_whole_file(path));
  Json package = parse_json(text);
  const bool has_trails =
      package.is_object() && (!package.contains("trails") || package["trails"].is_object());
  if (!has_trails || !package.contains("resources") || !package["resources"].is_array())
    return data_error(fmt::format(
        "{} is there but is not a Data Package. Move it, or write to another folder with --out.", path));
  return package;
}

}  // namespace

std::string file_stem(const std::string& stem, const std::string& part) {
  return part.empty() ? stem : fmt::format("{}-{}", stem, part);
}

OrError<files::AtomicFile> describe_in_package(const result::Result& result, const Trail& trail,
                                               const std::string& folder, const std::string& stem,
                                               bool has_tables) {
  const std::string path = folder + "/datapackage.json";
  PEAR_ASSIGN(Json package, existing_package(path));
  Json resources = Json::array();
  std::set<std::string> paths;
  for (const result::Table& table : result.tables) {
    if (!has_tables) continue;
    Json described = resource(table, stem);
    paths.insert(described["path"].get<std::string>());
    resources.push_back(std::move(described));
  }
  Json others = Json::array();
  for (const Json& other : package["resources"]) {
    if (text_of(other, "trail") != stem && !paths.contains(text_of(other, "path"))) others.push_back(other);
  }
  others.insert(others.end(), resources.begin(), resources.end());
  package["resources"] = std::move(others);
  package["trails"][stem] = trail_json(result, trail);
  PEAR_ASSIGN(files::AtomicFile file, files::AtomicFile::create(path));
  PEAR_TRY(file.write(to_text(package)));
  PEAR_TRY(file.finish());
  return file;
}

}  // namespace pear::output
