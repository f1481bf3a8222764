#include "support/importing.hpp"

#include "intake/plan/intake_file.hpp"

namespace pear::test {
namespace {

ImportRun run(const TemporaryFolder& folder, OrError<intake::IntakePlan> plan) {
  ImportRun outcome;
  const auto without_folder = [&](std::string text) {
    for (std::size_t at; (at = text.find(folder.path() + "/")) != std::string::npos;)
      text.erase(at, folder.path().size() + 1);
    return text;
  };
  auto imported = plan ? intake::import_tables(*plan, {[&](const intake::RejectedRow& row) -> OrError<void> {
                                                         outcome.rejected.push_back(row);
                                                         return {};
                                                       },
                                                       [&](const intake::ChangedCell& cell) -> OrError<void> {
                                                         outcome.changed.push_back(cell);
                                                         return {};
                                                       },
                                                       [](const intake::ImportProgress&) {}})
                       : tl::unexpected(plan.error());
  if (imported) {
    outcome.imported = std::move(*imported);
  } else {
    outcome.fault = without_folder(imported.error().message);
    outcome.kind = imported.error().kind;
  }
  return outcome;
}

}  // namespace

ImportRun import_text(const std::string& text, std::vector<std::pair<std::string, std::string>> columns) {
  const TemporaryFolder folder;
  return run(folder, intake::flat_plan(folder.write("sales.csv", text), std::move(columns)));
}

ImportRun import_intake(const TemporaryFolder& folder, const std::string& intake) {
  return run(folder, intake::read_intake_file(folder.write("shop.toml", intake)));
}

std::string column_text(const daybook::Daybook& daybook, std::string_view name) {
  const daybook::Column* column = daybook.find(name);
  if (column == nullptr) return "(none)";
  std::string text(daybook::to_text(column->level));
  for (std::size_t member = 0; member < column->size(); ++member)
    text += " " + daybook::value_text(column->values, member);
  return text;
}

std::string columns_by_name(const daybook::Daybook& daybook, const std::vector<std::string>& names) {
  std::string text;
  for (const std::string& name : names) text += name + ": " + column_text(daybook, name) + "\n";
  return text;
}

}  // namespace pear::test
