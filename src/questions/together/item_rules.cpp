#include "questions/together/item_rules.hpp"

#include <algorithm>
#include <utility>

#include "statistics/wilson_interval.hpp"

namespace pear::together {
namespace {

/// Rules with one item as their consequence, from every set and every item of it.
class RuleMaker {
 public:
  RuleMaker(Counts& counts, const mining::ItemSets& mined, const std::vector<mining::Association>& tested)
      : counts_(counts), mined_(mined), tested_(tested), index_(mined) {}

  void make() {
    const auto largest = static_cast<std::size_t>(counts_.options.largest);
    for (std::size_t size = 2; size <= largest; ++size) make_of(size);
    std::stable_sort(counts_.rules.begin(), counts_.rules.end(), [](const ItemRule& a, const ItemRule& b) {
      return std::pair(a.is_found(), a.sure) > std::pair(b.is_found(), b.sure);
    });
  }

 private:
  /// Rules of so many items. Each is tested, whether it is listed or not.
  void make_of(std::size_t size) {
    std::vector<ItemRule> rules;
    for (std::size_t set = 0; set < mined_.size(); ++set) {
      const auto codes = mined_.codes(set);
      if (codes.size() != size) continue;
      if (counts_.about && !std::binary_search(codes.begin(), codes.end(), *counts_.about)) continue;
      for (const std::uint32_t also : codes) rules.push_back(rule_of(set, also));
    }
    std::vector<mining::Association*> associations;
    for (ItemRule& rule : rules) associations.push_back(&rule.test);
    mining::control_false_discoveries(associations, size * counts_.sets_that_could_be(size));
    for (ItemRule& rule : rules) {
      if (rule.confidence() < counts_.options.confidence || rule.lift() < counts_.options.lift ||
          rule.confidence() + 1e-12 < best_of_shorter(rule) + counts_.options.min_gain)
        continue;
      rule.sure = statistics::wilson_interval(rule.baskets, rule.given_baskets).low;
      counts_.rules.push_back(std::move(rule));
    }
  }

  [[nodiscard]] std::uint32_t baskets_of(const std::vector<std::uint32_t>& codes) const {
    if (codes.size() == 1) return counts_.baskets.counts[codes.front()];
    return mined_.baskets(*index_.find(codes));
  }

  [[nodiscard]] ItemRule rule_of(std::size_t set, std::uint32_t also) const {
    ItemRule rule;
    for (const std::uint32_t code : mined_.codes(set))
      if (code != also) rule.given.push_back(code);
    rule.also = also;
    rule.baskets = mined_.baskets(set);
    rule.given_baskets = baskets_of(rule.given);
    rule.test = mining::AssociationTests::of_rule({rule.baskets, rule.given_baskets,
                                                   counts_.baskets.counts[also], mined_.squares(set),
                                                   tested_[set].expected, expected_of(rule.given)});
    return rule;
  }

  [[nodiscard]] double expected_of(const std::vector<std::uint32_t>& codes) const {
    if (codes.size() == 1) return counts_.count(codes.front());
    return tested_[*index_.find(codes)].expected;
  }

  /// The highest confidence with fewer items given (improvement: Bayardo, Agrawal and Gunopulos,
  /// Constraint-based rule mining in large, dense databases, ICDE 1999).
  [[nodiscard]] double best_of_shorter(const ItemRule& rule) const {
    double best = counts_.count(rule.also) / counts_.size();
    const std::size_t size = rule.given.size();
    for (std::uint32_t part = 1; part + 1 < (1U << size); ++part) {
      std::vector<std::uint32_t> given;
      for (std::size_t i = 0; i < size; ++i)
        if ((part >> i & 1U) != 0) given.push_back(rule.given[i]);
      std::vector<std::uint32_t> whole = given;
      whole.insert(std::upper_bound(whole.begin(), whole.end(), rule.also), rule.also);
      best = std::max(best, static_cast<double>(baskets_of(whole)) / baskets_of(given));
    }
    return best;
  }

  Counts& counts_;
  const mining::ItemSets& mined_;
  const std::vector<mining::Association>& tested_;
  mining::SetIndex index_;
};

}  // namespace

void find_rules(Counts& counts, const mining::ItemSets& mined,
                const std::vector<mining::Association>& tested) {
  RuleMaker(counts, mined, tested).make();
}

}  // namespace pear::together
