#include "daybook/walk_lines.hpp"

#include <tbb/blocked_range.h>
#include <tbb/parallel_for.h>

namespace pear::daybook {

std::vector<std::uint8_t> members_with_lines(const Daybook& daybook, Level level) {
  const std::vector<std::uint32_t>& products = daybook.parts().line_products;
  const bool is_partial = level == Level::product && !products.empty();
  std::vector<std::uint8_t> has_lines(daybook.members(level), is_partial ? 0 : 1);
  if (is_partial)
    for (const std::uint32_t product : products) has_lines[product] = 1;
  return has_lines;
}

void for_each_customer_run(const Daybook& daybook, const std::function<void(CustomerRun run)>& work) {
  constexpr std::uint32_t kCustomersPerRun = 8192;  // fewer do not justify a thread
  tbb::parallel_for(tbb::blocked_range<std::uint32_t>(0, daybook.customers(), kCustomersPerRun),
                    [&](const auto& run) {
                      work({run.begin(), run.end()});
                    });
}

}  // namespace pear::daybook
