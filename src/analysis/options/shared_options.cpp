#include "analysis/options/shared_options.hpp"

#include <utility>

#include "analysis/options/expression_option.hpp"

namespace pear::analysis {
namespace {

const OptionDeclarations<SharedOptions>& with_option() {
  static const OptionDeclarations<SharedOptions> kOption = {list_option<SharedOptions>(
      {"with", "COLUMN,...", "", "columns of customers or products, shown next to their ids"},
      &SharedOptions::with)};
  return kOption;
}

}  // namespace

std::vector<OptionInfo> shared_options(const Question& question) {
  std::vector<OptionInfo> options = infos(with_option());
  if (!question.arranges_rows)
    for (OptionInfo& option : infos(main_rows_options())) options.push_back(std::move(option));
  for (OptionInfo& option : infos(selection_options())) options.push_back(std::move(option));
  return options;
}

OrError<SharedOptions> read_shared_options(const Question& question, const OptionValues& values) {
  PEAR_ASSIGN(SharedOptions shared, read_options(with_option(), values));
  PEAR_ASSIGN(shared.selection, read_selection(values));
  if (!question.arranges_rows) {
    PEAR_ASSIGN(shared.rows, read_options(main_rows_options(), values));
  }
  return shared;
}

}  // namespace pear::analysis
