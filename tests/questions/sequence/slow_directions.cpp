#include "questions/sequence/slow_directions.hpp"

#include <algorithm>
#include <array>
#include <optional>

namespace pear::test {
namespace {

/// The days on which a customer bought anything, and each item for the first time.
struct Firsts {
  std::set<int> visits;
  std::map<std::string, int> days;

  [[nodiscard]] int number_of(int day) const {
    return static_cast<int>(std::distance(visits.begin(), visits.upper_bound(day)));
  }
};

int group_of(int number) {
  constexpr std::array kBegins = {1, 2, 3, 4, 6, 8, 12, 16, 24, 32, 48, 64, 96, 128, 192, 256, 384, 512};
  return static_cast<int>(std::upper_bound(kBegins.begin(), kBegins.end(), number) - kBegins.begin()) - 1;
}

/// How likely a first purchase of one item is at a visit without an earlier one.
class Hazard {
 public:
  Hazard(const std::vector<Firsts>& customers, const std::string& item) {
    for (const Firsts& customer : customers)
      if (const auto first = customer.days.find(item); first != customer.days.end())
        first_ = std::min(first_, first->second), last_ = std::max(last_, first->second), ++firsts_;
    parts_ = std::clamp(firsts_ / 20, 1, std::max(1, (last_ - first_ + 1) / 30));
    std::map<std::pair<int, int>, int> exposed, bought;  // by part and group
    for (const Firsts& customer : customers) {
      const auto first = customer.days.find(item);
      for (const int day : customer.visits) {
        if (day < first_ || day > last_ || (first != customer.days.end() && day > first->second)) continue;
        const std::pair cell(part_of(day), group_of(customer.number_of(day)));
        ++exposed[cell];
        bought[cell] += first != customer.days.end() && day == first->second ? 1 : 0;
      }
    }
    fit(exposed, bought);
  }

  [[nodiscard]] double at(int day, int number) {
    return day < first_ || day > last_ ? 0 : std::min(1.0, rates_[part_of(day)] * factors_[group_of(number)]);
  }

 private:
  [[nodiscard]] int part_of(int day) const {
    const float per_day = static_cast<float>(parts_) / static_cast<float>(last_ - first_ + 1);
    return std::min(parts_ - 1, static_cast<int>(static_cast<float>(day - first_) * per_day));
  }
  void fit(std::map<std::pair<int, int>, int>& exposed, std::map<std::pair<int, int>, int>& bought) {
    for (int group = 0; group < 18; ++group) factors_[group] = 1;
    for (int round = 0; round < 5; ++round) {
      std::map<int, double> visits, purchases, expected, observed;
      for (const auto& [cell, count] : exposed)
        visits[cell.first] += count * factors_[cell.second], purchases[cell.first] += bought[cell];
      for (const auto& [part, count] : visits) rates_[part] = count > 0 ? purchases[part] / count : 0;
      for (const auto& [cell, count] : exposed)
        expected[cell.second] += count * rates_[cell.first], observed[cell.second] += bought[cell];
      for (int group = 0; group < 18; ++group)
        factors_[group] = (observed[group] + 10) / (expected[group] + 10);
    }
  }

  int first_ = 1'000'000, last_ = -1'000'000, firsts_ = 0, parts_ = 1;
  std::map<int, double> rates_, factors_;
};

/// That each of a customer's visits is the one of the first purchase of an item.
std::vector<double> timing_of(const Firsts& customer, Hazard& hazard) {
  std::vector<double> timing;
  double never = 1;
  for (const int day : customer.visits) {
    const double now = hazard.at(day, customer.number_of(day));
    timing.push_back(never * now);
    never *= 1 - now;
  }
  return timing;
}

double probability_before(const std::vector<double>& earlier, const std::vector<double>& later) {
  double forth = 0, back = 0;
  for (std::size_t i = 0; i < earlier.size(); ++i)
    for (std::size_t j = i + 1; j < later.size(); ++j)
      forth += earlier[i] * later[j], back += later[i] * earlier[j];
  return forth / (forth + back);
}

}  // namespace

std::map<std::pair<std::string, std::string>, SlowDirection> slow_directions(
    const std::vector<History>& histories) {
  std::vector<Firsts> customers;
  std::map<std::string, std::optional<Hazard>> hazards;
  for (const History& history : histories) {
    Firsts& firsts = customers.emplace_back();
    for (const Visit& visit : history) {
      if (!visit.items.empty()) firsts.visits.insert(visit.day);
      for (const std::string& item : visit.items) firsts.days.try_emplace(item, visit.day), hazards[item];
    }
  }
  for (auto& [item, hazard] : hazards) hazard.emplace(customers, item);
  std::map<std::pair<std::string, std::string>, SlowDirection> directions;
  for (const auto& [earlier, unused] : hazards)
    for (const auto& [later, also_unused] : hazards) directions[{earlier, later}];
  for (const Firsts& customer : customers) {
    for (const auto& [earlier, day] : customer.days) {
      for (const auto& [later, later_day] : customer.days) {
        if (later_day <= day) continue;
        SlowDirection& direction = directions[{earlier, later}];
        ++direction.customers;
        direction.expected +=
            probability_before(timing_of(customer, *hazards[earlier]), timing_of(customer, *hazards[later]));
      }
    }
  }
  return directions;
}

}  // namespace pear::test
