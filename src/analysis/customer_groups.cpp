#include "analysis/customer_groups.hpp"

#include <algorithm>
#include <cmath>
#include <memory>
#include <utility>

#include <fmt/format.h>

#include "analysis/frequent_values.hpp"
#include "analysis/tables/member_column.hpp"
#include "analysis/time_keys.hpp"
#include "base/text.hpp"

namespace pear::analysis {
namespace {

/// Splits each group by a key; the groups that occur are numbered in order. False for more than `most`
/// groups.
bool split(const expression::GroupKey& key, std::uint32_t most, CustomerGroups& groups) {
  const std::uint32_t values = key.distinct + 1;
  if (std::uint64_t{groups.count} * values > 1'000'000) return false;
  std::vector<std::uint32_t> number(std::size_t{groups.count} * values);
  for (std::uint32_t customer = 0; customer < groups.of_customer.size(); ++customer)
    number[std::size_t{groups.of_customer[customer]} * values + key.codes[customer]] = 1;
  std::vector<std::vector<std::uint32_t>> codes(groups.codes.size() + 1);
  std::uint32_t count = 0;
  for (std::size_t pair = 0; pair < number.size(); ++pair) {
    if (number[pair] == 0) continue;
    number[pair] = count++;
    for (std::size_t i = 0; i < groups.codes.size(); ++i) codes[i].push_back(groups.codes[i][pair / values]);
    codes.back().push_back(static_cast<std::uint32_t>(pair % values));
  }
  for (std::uint32_t customer = 0; customer < groups.of_customer.size(); ++customer) {
    std::uint32_t& group = groups.of_customer[customer];
    group = number[std::size_t{group} * values + key.codes[customer]];
  }
  groups.codes = std::move(codes);
  groups.count = count;
  return count <= most;
}

bool split_by_all(std::uint32_t most, CustomerGroups& groups) {
  groups.count = 1;
  groups.codes.clear();
  std::fill(groups.of_customer.begin(), groups.of_customer.end(), 0U);
  return std::all_of(groups.keys.begin(), groups.keys.end(),
                     [&](const expression::GroupKey& key) { return split(key, most, groups); });
}

/// Combines values of the keys until all combinations are at most so many.
void combine_values(std::uint32_t most, CustomerGroups& groups) {
  const double root = std::pow(most, 1.0 / static_cast<double>(groups.keys.size()));
  const auto kept = static_cast<std::uint32_t>(std::max(1.0, root - 2));  // with "other" and the empty value
  std::vector<std::string> notes;
  for (std::size_t i = 0; i < groups.keys.size(); ++i)
    if (const std::uint32_t combined = keep_most_frequent(groups.keys[i], kept); combined > 0)
      notes.push_back(
          fmt::format("{} of {} are combined in \"other\": the {} that most customers have are kept.",
                      counted(combined, "value"), groups.names[i], with_thousands(std::int64_t{kept})));
  groups.note = join(notes, " ");
}

}  // namespace

std::string CustomerGroups::label(std::uint32_t group) const {
  std::string label;
  for (std::size_t i = 0; i < keys.size(); ++i)
    label += (i == 0 ? "" : " / ") + expression::label_text(keys[i], codes[i][group]);
  return label;
}

std::string CustomerGroups::noun() const {
  std::string noun = join(names, " and ");
  std::replace(noun.begin(), noun.end(), '_', ' ');
  return noun;
}

bool CustomerGroups::is_time() const {
  return std::all_of(keys.begin(), keys.end(),
                     [](const expression::GroupKey& key) { return analysis::is_time(key); });
}

std::vector<result::TableColumn> CustomerGroups::columns(const std::vector<std::uint32_t>& groups) const {
  std::vector<result::TableColumn> columns;
  for (std::size_t i = 0; i < keys.size(); ++i) {
    auto labels = std::make_shared<TextArray>();
    for (std::uint32_t code = 0; code <= keys[i].distinct; ++code)
      labels->push_back(expression::label_text(keys[i], code));
    labels->push_back(i == 0 ? "All" : "");
    result::CodedTexts texts{{}, std::move(labels)};
    for (const std::uint32_t group : groups)
      texts.codes.push_back(group == count ? keys[i].distinct + 1 : codes[i][group]);
    columns.push_back(
        result::text_column(names[i], fmt::format("{} of the customers.", names[i]), std::move(texts)));
    columns.back().always_shown = true;
  }
  return columns;
}

OrError<void> check_of_customers(const std::string& option, const expression::Tree& tree,
                                 const expression::GroupKey& key) {
  if (key.level == daybook::Level::customer) return {};
  return usage_error(
      fmt::format("--{} {}: a customer can have several values of it, but this question assigns each "
                  "customer to one group. Use a column of customers, or select with --where.",
                  option, tree.text));
}

OrError<CustomerGroups> group_customers(const std::vector<expression::Tree>& by,
                                        const expression::LineView& lines, const std::string& option,
                                        std::uint32_t most) {
  CustomerGroups groups;
  if (by.empty()) return groups;
  PEAR_ASSIGN(groups.keys, keys_of(option, by, lines));
  groups.of_customer.assign(lines.daybook().customers(), 0);
  for (std::size_t i = 0; i < by.size(); ++i) {
    PEAR_TRY(check_of_customers(option, by[i], groups.keys[i]));
    groups.names.push_back(by[i].name);
  }
  if (split_by_all(most, groups)) return groups;
  combine_values(most, groups);
  split_by_all(most, groups);
  return groups;
}

}  // namespace pear::analysis
