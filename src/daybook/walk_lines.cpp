#include "daybook/walk_lines.hpp"

#include <tbb/blocked_range.h>
#include <tbb/parallel_for.h>

namespace pear::daybook {

void for_each_customer_run(const Daybook& daybook, const std::function<void(CustomerRun run)>& work) {
  constexpr std::uint32_t kCustomersPerRun = 8192;  // fewer do not justify a thread
  tbb::parallel_for(tbb::blocked_range<std::uint32_t>(0, daybook.customers(), kCustomersPerRun),
                    [&](const auto& run) {
                      work({run.begin(), run.end()});
                    });
}

}  // namespace pear::daybook
