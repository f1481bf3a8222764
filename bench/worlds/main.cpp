// Prints, for each world and claim, how many claims are wrong: worlds [SHOPS [NAME]].
#include <cstdlib>
#include <string>

#include <fmt/format.h>

#include "worlds/claims.hpp"

namespace {

struct Sums {
  int wrong = 0, shops_with_wrong = 0, found = 0;
};

void print_world(const pear::worlds::WorldOptions& world, int shops) {
  std::vector<std::string> claims;
  std::vector<Sums> sums;
  for (int shop = 0; shop < shops; ++shop) {
    const auto counts =
        pear::worlds::count_claims(pear::worlds::simulate(world, static_cast<unsigned>(shop) + 1));
    sums.resize(counts.size());
    claims.clear();
    for (std::size_t i = 0; i < counts.size(); ++i) {
      claims.push_back(counts[i].claim);
      sums[i].wrong += counts[i].wrong;
      sums[i].shops_with_wrong += counts[i].wrong > 0 ? 1 : 0;
      sums[i].found += counts[i].found;
    }
  }
  for (std::size_t i = 0; i < claims.size(); ++i)
    fmt::print("| {} | {} | {:.2f} | {} of {} | {:.2f} |\n", world.name, claims[i],
               1.0 * sums[i].wrong / shops, sums[i].shops_with_wrong, shops, 1.0 * sums[i].found / shops);
  std::fflush(stdout);
}

}  // namespace

int main(int count, char** words) {
  const int shops = count > 1 ? std::max(1, std::atoi(words[1])) : 20;
  fmt::print(
      "| world | claim | wrong claims per shop | shops with any | planted and found |\n| --- | --- | ---: | "
      "---: | ---: |\n");
  for (const pear::worlds::WorldOptions& world : pear::worlds::all_worlds())
    if (count < 3 || world.name == words[2]) print_world(world, shops);
}
