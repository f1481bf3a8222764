#include "intake/plan/intake_plan.hpp"

namespace pear::intake {

std::string_view to_text(TableKind kind) {
  constexpr std::string_view kNames[] = {"lines", "orders", "products", "customers", "prices"};
  return kNames[static_cast<std::size_t>(kind)];
}

std::string_view singular(TableKind kind) {
  const std::string_view name = to_text(kind);
  return name.substr(0, name.size() - 1);
}

std::vector<sources::TableAddress> TablePlan::sources() const {
  std::vector<sources::TableAddress> all;
  for (const SourcePlan& each : from) all.insert(all.end(), each.sources.begin(), each.sources.end());
  return all;
}

}  // namespace pear::intake
