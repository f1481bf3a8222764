// Prints, for each world and claim, how many claims are wrong: worlds [--short] [SHOPS [NAME]].
#include <algorithm>
#include <cstdio>
#include <cstdlib>
#include <map>
#include <string>
#include <string_view>
#include <vector>

#include <fmt/format.h>

#include "worlds/claims.hpp"

namespace {

struct Sums {
  int wrong = 0, shops_with_wrong = 0, found = 0, shops = 0;
};
using SumsByClaim = std::vector<std::pair<std::string, Sums>>;

SumsByClaim ask(const pear::worlds::WorldOptions& world, int shops) {
  SumsByClaim sums;
  for (int shop = 0; shop < shops; ++shop) {
    const auto counts =
        pear::worlds::count_claims(pear::worlds::simulate(world, static_cast<unsigned>(shop) + 1));
    for (std::size_t i = 0; i < counts.size(); ++i) {
      if (sums.size() == i) sums.emplace_back(counts[i].claim, Sums{});
      Sums& sum = sums[i].second;
      sum.wrong += counts[i].wrong;
      sum.shops_with_wrong += counts[i].wrong > 0 ? 1 : 0;
      sum.found += counts[i].found;
      ++sum.shops;
    }
  }
  return sums;
}

void print(const pear::worlds::WorldOptions& world, const SumsByClaim& sums) {
  for (const auto& [claim, sum] : sums)
    fmt::print("| {} | {} | {:.2f} | {} of {} | {:.2f} |\n", world.name, claim, 1.0 * sum.wrong / sum.shops,
               sum.shops_with_wrong, sum.shops, 1.0 * sum.found / sum.shops);
  std::fflush(stdout);
}

/// Whether claims that hold back false discoveries do so: at a rate of 1 in 20 shops, more than 1 in 8 of
/// about 50 is unlikely. Claims about pull and prices are not valid yet.
bool is_valid(const std::map<std::string, Sums>& all) {
  bool valid = true;
  for (const std::string claim : {"pairs", "rules", "directions"}) {
    const Sums& sum = all.at(claim);
    if (8 * sum.shops_with_wrong <= sum.shops) continue;
    fmt::print("{} are wrong in {} of {} shops without any\n", claim, sum.shops_with_wrong, sum.shops);
    valid = false;
  }
  return valid;
}

}  // namespace

int main(int count, char** words) {
  const bool is_short = count > 1 && std::string_view(words[1]) == "--short";
  const int shops = is_short ? 4 : count > 1 ? std::max(1, std::atoi(words[1])) : 20;
  fmt::print(
      "| world | claim | wrong claims per shop | shops with any | planted and found |\n"
      "| --- | --- | ---: | ---: | ---: |\n");
  std::map<std::string, Sums> all;
  for (const pear::worlds::WorldOptions& world : pear::worlds::all_worlds()) {
    if (count > 2 && world.name != words[2]) continue;
    const SumsByClaim sums = ask(world, shops);
    print(world, sums);
    if (world.planted_pairs + world.planted_sequels > 0) continue;
    for (const auto& [claim, sum] : sums) {
      all[claim].shops += sum.shops;
      all[claim].shops_with_wrong += sum.shops_with_wrong;
    }
  }
  return is_short && !is_valid(all) ? 1 : 0;
}
