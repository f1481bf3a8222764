#include "recommender/parallel_counting.hpp"

#include <algorithm>
#include <utility>

namespace pear::recommender {

std::vector<ProductBlock> blocks_of(const mining::Histories& histories, std::size_t bytes_per_product) {
  constexpr std::size_t kBytes = 16U << 20U;
  const auto products = static_cast<std::uint32_t>(histories.counts.size());
  const auto size = static_cast<std::uint32_t>(
      std::clamp<std::size_t>(kBytes / bytes_per_product, 1, std::max(products, 1U)));
  std::vector<ProductBlock> blocks;
  for (std::uint32_t begin = 0; begin < products; begin += size)
    blocks.push_back({begin, std::min(products, begin + size), {}});
  std::vector<std::uint32_t> last_of(blocks.size(), UINT32_MAX);
  for (std::uint32_t customer = 0; customer < histories.customers(); ++customer)
    for (const mining::HistoryEntry& entry : histories.of(customer)) {
      const std::size_t block = entry.code / size;
      if (std::exchange(last_of[block], customer) != customer) blocks[block].customers.push_back(customer);
    }
  return blocks;
}

}  // namespace pear::recommender
