#include "daybook/columns/value_classes.hpp"

#include <algorithm>

#include <tbb/parallel_sort.h>

#include "base/decimal.hpp"

namespace pear::daybook {

TextValues value_classes(const std::vector<std::int64_t>& amounts) {
  TextValues classes;
  for (const char* name : {"A", "B", "C"}) classes.dictionary.push_back(name);
  classes.codes.assign(amounts.size(), kEmptyCode);
  std::vector<std::uint32_t> ranked;
  Int128 total = 0;
  for (std::uint32_t member = 0; member < amounts.size(); ++member) {
    if (amounts[member] == kEmptyUnits) continue;
    ranked.push_back(member);
    total += std::max<std::int64_t>(0, amounts[member]);
  }
  if (total == 0) return classes;
  tbb::parallel_sort(ranked.begin(), ranked.end(), [&](std::uint32_t a, std::uint32_t b) {
    return amounts[a] != amounts[b] ? amounts[a] > amounts[b] : a < b;
  });
  Int128 before = 0;  // the amounts of larger members
  for (const std::uint32_t member : ranked) {
    classes.codes[member] = before * 100 < total * 80 ? 0U : before * 100 < total * 95 ? 1U : 2U;
    before += std::max<std::int64_t>(0, amounts[member]);
  }
  return classes;
}

std::vector<std::int64_t> product_amounts(const Daybook& daybook) {
  std::vector<Int128> sums(daybook.products());
  std::vector<std::uint8_t> has_lines(daybook.products());
  const auto products = daybook.line_products();
  for (std::uint32_t line = 0; line < daybook.lines(); ++line) {
    sums[products[line]] += daybook.amounts()[line];
    has_lines[products[line]] = 1;
  }
  std::vector<std::int64_t> amounts(sums.size(), kEmptyUnits);
  for (std::size_t product = 0; product < sums.size(); ++product) {
    const bool fits = sums[product] <= INT64_MAX && sums[product] > INT64_MIN;
    if (has_lines[product] != 0) amounts[product] = fits ? static_cast<std::int64_t>(sums[product]) : 0;
  }
  return amounts;
}

}  // namespace pear::daybook
