#include "pushdown/group_reader.hpp"

#include <fmt/format.h>

#include "base/text.hpp"

namespace pear::pushdown {

OrError<GroupReader> GroupReader::read_groups(const std::string& option,
                                              const std::vector<expression::Tree>& by,
                                              const SelectedLines& lines) {
  constexpr std::uint32_t kMost = 1'000;
  GroupReader reader(lines);
  PEAR_ASSIGN(reader.keys_, keys_of(option, by, lines));
  const std::vector<SqlKey>& keys = reader.keys_;
  for (std::size_t i = 0; i < by.size(); ++i) {
    PEAR_TRY(analysis::check_of_customers(option, by[i], keys[i].key));
    reader.groups_.names.push_back(by[i].name);
    reader.definitions_ += fmt::format("{} AS k{}, ", keys[i].sql, i);
    reader.names_ += fmt::format("k{}, ", i);
  }
  if (by.empty()) {  // all lines are one group, and no statement is needed to know it
    reader.grouped_.group_of.emplace(std::vector<SqlValue>(), 0);
    return reader;
  }
  PEAR_ASSIGN(reader.grouped_, group_lines(lines, keys, {}));
  if (reader.grouped_.groups > kMost)
    return usage_error(fmt::format(
        "--{} {} has {} groups; a database's answer has at most {}. Choose one of fewer values.", option,
        join(reader.groups_.names, ","), with_thousands(std::int64_t{reader.grouped_.groups}),
        with_thousands(std::int64_t{kMost})));
  reader.groups_.keys = reader.grouped_.keys;
  reader.groups_.codes = reader.grouped_.codes;
  reader.groups_.count = reader.grouped_.groups;
  return reader;
}

OrError<void> GroupReader::read(const std::string& select, const std::vector<std::string>& columns,
                                const Use& use) const {
  std::vector<std::string> all;
  for (std::size_t i = 0; i < groups_.names.size(); ++i) all.push_back(fmt::format("k{}", i));
  all.insert(all.end(), columns.begin(), columns.end());
  PEAR_ASSIGN(const SqlRows rows, lines_.session.rows(lines_.with, select, all));
  for (const auto& row : rows) {
    const auto keys_end = row.begin() + static_cast<std::ptrdiff_t>(groups_.names.size());
    PEAR_TRY(use(group_of(std::span(row.begin(), keys_end)), std::span(keys_end, row.end())));
  }
  return {};
}

OrError<std::uint64_t> GroupReader::number(const std::string& select) const {
  PEAR_ASSIGN(const SqlRows rows, lines_.session.rows(lines_.with, select, {"n"}));
  PEAR_ASSIGN(const std::int64_t n, rows.empty() ? std::int64_t{0} : whole64(rows[0][0]));
  return static_cast<std::uint64_t>(n);
}

OrError<std::uint64_t> GroupReader::customers_without_order() const {
  return number(
      "SELECT COUNT(*) AS n FROM (SELECT customer_id FROM pear_lines GROUP BY customer_id HAVING COUNT(CASE "
      "WHEN NOT is_return THEN 1 "
      "END) = 0) AS pear_customers");
}

}  // namespace pear::pushdown
