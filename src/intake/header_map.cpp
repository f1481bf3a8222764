#include "intake/header_map.hpp"

#include <algorithm>
#include <set>

#include <fmt/format.h>

#include "base/text.hpp"

namespace pear {
namespace {

std::string list_quoted(const std::vector<std::string>& names) {
  std::vector<std::string> each;
  for (const std::string& name : names) each.push_back(in_quotes(name));
  return join(each, ", ");
}

std::optional<std::size_t> role_index(std::string_view name) {
  for (std::size_t i = 0; i < kRoles; ++i) {
    if (roles()[i].name == name) return i;
  }
  return std::nullopt;
}

OrError<void> assign_roles(const std::vector<std::string>& header,
                           const std::vector<RoleAssignment>& assignments, const std::string& file,
                           HeaderMap& map) {
  for (const RoleAssignment& assignment : assignments) {
    const auto role = role_index(assignment.role);
    if (!role)
      return usage_error(fmt::format("--map: {} is not a role; roles are {}.{}", in_quotes(assignment.role),
                                     join(role_names(), ", "), did_you_mean(assignment.role, role_names())));
    if (map.positions[*role])
      return usage_error(fmt::format("--map: the role {} is given twice.", assignment.role));
    const auto found = std::find(header.begin(), header.end(), assignment.header);
    if (found == header.end())
      return usage_error(fmt::format("--map: {} has no column {} for {}; its columns are {}.{}", file,
                                     in_quotes(assignment.header), assignment.role, list_quoted(header),
                                     did_you_mean(assignment.header, header)));
    map.positions[*role] = static_cast<std::size_t>(found - header.begin());
  }
  return {};
}

void find_roles_by_name(const std::vector<std::string>& header, HeaderMap& map) {
  for (std::size_t column = 0; column < header.size(); ++column) {
    const auto role = role_index(snake_case(header[column]));
    if (role && !map.positions[*role]) map.positions[*role] = column;
  }
}

/// One line for each required role that no column plays, with a way to mend it.
OrError<void> check_required(const std::vector<std::string>& header, const std::string& file,
                             const HeaderMap& map) {
  std::vector<std::string> free;
  for (std::size_t column = 0; column < header.size(); ++column) {
    if (std::find(map.positions.begin(), map.positions.end(), column) == map.positions.end())
      free.push_back(header[column]);
  }
  std::vector<std::string> missing;
  std::vector<std::string> suggestions;
  for (std::size_t i = 0; i < kRoles; ++i) {
    if (!roles()[i].required || map.positions[i]) continue;
    const std::string name(roles()[i].name);
    missing.push_back(name);
    if (const auto near = nearest_name(name, free))
      suggestions.push_back(fmt::format("{}={}", name, in_quotes(*near)));
  }
  if (missing.empty()) return {};
  return data_error(
      fmt::format("{}: no column plays {}. Its columns are {}. Say which they are, for example --map {}.",
                  file, join(missing, ", "), list_quoted(header),
                  suggestions.empty() ? fmt::format("{}=\"Name of the column\"", missing.front())
                                      : join(suggestions, ",")));
}

void name_extras(const std::vector<std::string>& header, HeaderMap& map) {
  std::set<std::string> taken(reserved_names().begin(), reserved_names().end());
  for (const std::string& name : role_names()) taken.insert(name);
  for (std::size_t column = 0; column < header.size(); ++column) {
    if (std::find(map.positions.begin(), map.positions.end(), column) != map.positions.end()) continue;
    const std::string plain = snake_case(header[column]);
    std::string name = plain.empty() ? fmt::format("column_{}", column + 1) : plain;
    for (int number = 2; taken.contains(name); ++number) name = fmt::format("{}_{}", plain, number);
    if (plain.empty()) {
      map.notes.push_back(
          fmt::format("Column {} has no name in the header; it is called {}.", column + 1, name));
    } else if (name != plain) {
      map.notes.push_back(fmt::format("Column {} ({}) is called {}, since {} is taken.", column + 1,
                                      in_quotes(header[column]), name, plain));
    }
    taken.insert(name);
    map.extras.push_back({column, std::move(name)});
  }
}

}  // namespace

OrError<std::vector<RoleAssignment>> parse_assignments(std::string_view text) {
  std::vector<RoleAssignment> assignments;
  std::string_view rest = text;
  while (!rest.empty()) {
    const std::size_t equals = rest.find('=');
    if (equals == std::string_view::npos || equals == 0)
      return usage_error(
          fmt::format("--map: {} is not role=column, as in order_id=\"Order No\".", in_quotes(rest)));
    RoleAssignment assignment{std::string(rest.substr(0, equals)), ""};
    rest.remove_prefix(equals + 1);
    const bool is_quoted = rest.starts_with('"');
    if (is_quoted) rest.remove_prefix(1);
    const std::size_t end = rest.find(is_quoted ? '"' : ',');
    if (is_quoted && end == std::string_view::npos)
      return usage_error(fmt::format("--map: the quote before {} is never closed.", in_quotes(rest)));
    assignment.header = std::string(rest.substr(0, end));
    rest.remove_prefix(
        std::min(rest.size(), end == std::string_view::npos ? rest.size() : end + (is_quoted ? 1 : 0)));
    if (!rest.empty() && rest.front() != ',')
      return usage_error(fmt::format("--map: a comma is expected before {}.", in_quotes(rest)));
    if (!rest.empty()) rest.remove_prefix(1);
    assignments.push_back(std::move(assignment));
  }
  return assignments;
}

OrError<HeaderMap> map_header(const std::vector<std::string>& header,
                              const std::vector<RoleAssignment>& assignments, const std::string& file) {
  HeaderMap map;
  PEAR_TRY(assign_roles(header, assignments, file, map));
  find_roles_by_name(header, map);
  PEAR_TRY(check_required(header, file, map));
  name_extras(header, map);
  return map;
}

}  // namespace pear
