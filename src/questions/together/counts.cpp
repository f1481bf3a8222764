#include "questions/together/counts.hpp"

#include <algorithm>
#include <cmath>
#include <limits>
#include <utility>

#include <absl/container/flat_hash_map.h>
#include <fmt/format.h>
#include <tbb/enumerable_thread_specific.h>
#include <tbb/parallel_for.h>

#include "analysis/wording.hpp"
#include "base/pair_key.hpp"
#include "base/text.hpp"
#include "daybook/walk_lines.hpp"
#include "statistics/significance.hpp"
#include "statistics/wilson_interval.hpp"

namespace pear::together {
namespace {

/// 1 in 1,000 baskets, but at least 5; doubled while more than 20,000 pairs reach it.
OrError<std::uint32_t> least_baskets(const Counts& counts) {
  if (counts.options.support) return counts.options.support->of(counts.baskets.size());
  constexpr std::uint32_t kFewest = 5;
  constexpr std::size_t kMostPairs = 20'000;
  const auto least = static_cast<std::uint32_t>(std::ceil(counts.size() / 1000));
  return mining::support_that_fits(counts.baskets, {std::max(kFewest, least), 2, kMostPairs});
}

/// Only the baskets with the requested item; its counts stay those of all baskets.
mining::Baskets with_item(const mining::Baskets& baskets, std::uint32_t item) {
  mining::Baskets some;
  some.counts.resize(baskets.counts.size());
  for (std::size_t basket = 0; basket < baskets.size(); ++basket) {
    const auto items = baskets.of(basket);
    if (!std::binary_search(items.begin(), items.end(), item)) continue;
    some.items.insert(some.items.end(), items.begin(), items.end());
    some.begins.push_back(static_cast<std::uint32_t>(some.items.size()));
    for (const std::uint32_t code : items) ++some.counts[code];
  }
  return some;
}

bool holds(std::span<const std::uint32_t> codes, std::uint32_t item) {
  return std::binary_search(codes.begin(), codes.end(), item);
}

/// Sums of both items over the baskets with both.
void add_amounts(Counts& counts) {
  absl::flat_hash_map<std::uint64_t, std::uint32_t> places;
  for (std::uint32_t i = 0; i < counts.pairs.size(); ++i) {
    const auto [low, high] = std::minmax(counts.pairs[i].a, counts.pairs[i].b);
    places.emplace(pair_key(low, high), i);
  }
  std::vector<std::uint8_t> is_paired(counts.baskets.counts.size());
  for (const ItemPair& pair : counts.pairs) is_paired[pair.a] = is_paired[pair.b] = 1;
  struct Sums {
    std::vector<DecimalSum> amounts, margins;
  };
  const std::size_t size = counts.pairs.size();
  tbb::enumerable_thread_specific<Sums> all([&] {
    return Sums{std::vector<DecimalSum>(size), std::vector<DecimalSum>(size)};
  });
  const mining::BasketWalker walker(counts.input.daybook, counts.key, counts.options.within);
  daybook::for_each_customer_run(counts.input.daybook, [&](daybook::CustomerRun run) {
    Sums& own = all.local();
    std::vector<mining::BasketItem> items;
    const auto visit = [&](std::span<const mining::BasketItem> basket, Date) {
      for (std::size_t i = 0; i < basket.size(); ++i) {
        if (is_paired[basket[i].code] == 0) continue;
        for (std::size_t j = i + 1; j < basket.size(); ++j) {
          const auto found = places.find(pair_key(basket[i].code, basket[j].code));
          if (found == places.end()) continue;
          for (const mining::BasketItem& item : {basket[i], basket[j]}) {
            own.amounts[found->second].add(Decimal::from_units(item.amount));
            own.margins[found->second].add(Decimal::from_units(item.margin));
          }
        }
      }
    };
    for (std::uint32_t customer = run.begin; customer < run.end; ++customer)
      walker.walk(customer, items, visit);
  });
  for (const Sums& own : all) {
    for (std::size_t i = 0; i < size; ++i) {
      counts.pairs[i].amount.add(own.amounts[i]);
      counts.pairs[i].margin.add(own.margins[i]);
    }
  }
}

/// Pairs from the mined sets, each tested. q values are over all pairs of items that are frequent enough for
/// one to be among them, whether they occur together or not.
void find_pairs(Counts& counts, const mining::ItemSets& mined) {
  const std::uint64_t all = counts.baskets.size();
  std::vector<double> chances;
  for (std::size_t set = 0; set < mined.size(); ++set) {
    const auto codes = mined.codes(set);
    if (codes.size() != 2 || (counts.about && !holds(codes, *counts.about))) continue;
    ItemPair pair{codes[0], codes[1], mined.baskets(set), 1, 1, {}, {}};
    if (counts.about == pair.b) std::swap(pair.a, pair.b);
    pair.p = statistics::probability_of_overlap(pair.both, counts.baskets.counts[pair.a],
                                                counts.baskets.counts[pair.b], all);
    chances.push_back(pair.p);
    counts.pairs.push_back(pair);
  }
  const std::uint32_t least = counts.about ? 1 : counts.least;
  const auto& tallies = counts.baskets.counts;
  const auto frequent = static_cast<std::uint64_t>(
      std::count_if(tallies.begin(), tallies.end(), [&](std::uint32_t count) { return count >= least; }));
  counts.pairs_tested = counts.about ? frequent - 1 : frequent * (frequent - 1) / 2;
  const std::vector<double> found = statistics::q_values(chances, counts.pairs_tested);
  for (std::size_t i = 0; i < found.size(); ++i) counts.pairs[i].q = found[i];
  std::erase_if(counts.pairs, [&](const ItemPair& pair) {
    const double most = pair.both / std::min(counts.count(pair.a), counts.count(pair.b));
    return most < counts.options.confidence || counts.lift(pair) < counts.options.lift;
  });
  std::stable_sort(counts.pairs.begin(), counts.pairs.end(),
                   [](const ItemPair& a, const ItemPair& b) { return a.both > b.both; });
  add_amounts(counts);
}

double expected_share(const Counts& counts, std::span<const std::uint32_t> codes) {
  double share = 1;
  for (const std::uint32_t code : codes) share *= counts.count(code) / counts.size();
  return share;
}

/// The sets to list, the most frequent first.
void choose_sets(Counts& counts, const mining::ItemSets& mined, const std::vector<std::uint8_t>& kept) {
  const auto smallest = static_cast<std::size_t>(counts.options.size);
  const auto largest = static_cast<std::size_t>(counts.options.largest);
  std::vector<std::uint32_t> chosen;
  for (std::uint32_t set = 0; set < mined.size(); ++set) {
    const auto codes = mined.codes(set);
    const double share = mined.baskets(set) / counts.size();
    if (kept[set] != 0 && codes.size() >= smallest && codes.size() <= largest &&
        (!counts.about || holds(codes, *counts.about)) &&
        share >= counts.options.lift * expected_share(counts, codes))
      chosen.push_back(set);
  }
  std::stable_sort(chosen.begin(), chosen.end(),
                   [&](std::uint32_t a, std::uint32_t b) { return mined.baskets(a) > mined.baskets(b); });
  for (const std::uint32_t set : chosen) counts.sets.add(mined.codes(set), mined.baskets(set));
}

/// Rules with one item as their consequence, from every set and every item of it.
class RuleMaker {
 public:
  RuleMaker(Counts& counts, const mining::ItemSets& mined) : counts_(counts), mined_(mined), index_(mined) {}

  void make() {
    std::vector<double> chances;
    std::vector<ItemRule> rules;
    for (std::size_t set = 0; set < mined_.size(); ++set) {
      const auto codes = mined_.codes(set);
      if (codes.size() < 2 || codes.size() > static_cast<std::size_t>(counts_.options.largest) ||
          (counts_.about && !holds(codes, *counts_.about)))
        continue;
      for (const std::uint32_t also : codes) {
        ItemRule rule = rule_of(set, also);
        ++counts_.rules_tested;
        if (confidence(rule) < counts_.options.confidence || lift(rule) < counts_.options.lift ||
            confidence(rule) + 1e-12 < best_of_shorter(rule) + counts_.options.min_gain)
          continue;
        rule.p = statistics::probability_of_overlap(rule.baskets, rule.given_baskets,
                                                    counts_.baskets.counts[also], counts_.baskets.size());
        chances.push_back(rule.p);
        rules.push_back(std::move(rule));
      }
    }
    const std::vector<double> found = statistics::q_values(chances, counts_.rules_tested);
    for (std::size_t i = 0; i < found.size(); ++i) rules[i].q = found[i];
    for (ItemRule& rule : rules)
      rule.sure = statistics::wilson_interval(rule.baskets, rule.given_baskets).low;
    std::stable_sort(rules.begin(), rules.end(),
                     [&](const ItemRule& a, const ItemRule& b) { return a.sure > b.sure; });
    counts_.rules = std::move(rules);
  }

 private:
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
    return rule;
  }

  [[nodiscard]] static double confidence(const ItemRule& rule) {
    return static_cast<double>(rule.baskets) / rule.given_baskets;
  }
  [[nodiscard]] double lift(const ItemRule& rule) const {
    return confidence(rule) * counts_.size() / counts_.count(rule.also);
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
  mining::SetIndex index_;
};

/// Mines into the counts: pairs with their tests, sets, rules. Error: usage, if there are too many.
OrError<void> find_together(Counts& counts) {
  PEAR_ASSIGN(counts.least, least_baskets(counts));
  const auto largest = static_cast<std::size_t>(counts.options.largest);
  const bool only_some = counts.options.only != mining::OnlySets::all;
  const mining::MiningBounds bounds{counts.least, largest + (only_some ? 1 : 0),
                                    static_cast<std::size_t>(counts.options.at_most)};
  const auto mined = mining::mine_sets(counts.baskets, bounds, counts.input.progress);
  if (!mined) {
    const std::uint32_t fits = mining::support_that_fits(counts.baskets, bounds);
    return usage_error(
        fmt::format("more than {} sets reach a support of {}, more than --at-most allows. Use --support \"{} "
                    "baskets\", or a smaller --largest.",
                    with_thousands(counts.options.at_most), counted(counts.least, "basket"), fits));
  }
  if (counts.about) {  // every companion, unless a support is given
    const std::uint32_t least = counts.options.support ? counts.least : 1;
    constexpr std::size_t kAny = std::numeric_limits<std::size_t>::max();
    find_pairs(counts, *mining::mine_sets(with_item(counts.baskets, *counts.about), {least, 2, kAny}));
  } else {
    find_pairs(counts, *mined);
  }
  choose_sets(counts, *mined, mining::kept_sets(*mined, counts.options.only));
  RuleMaker(counts, *mined).make();
  return {};
}

}  // namespace

OrError<Counts> count(const analysis::QuestionInput& input, const Options& options) {
  const expression::LineView lines(input.daybook, input.grains);
  PEAR_ASSIGN(auto key, mining::basket_key(options.level, lines));
  Counts counts{input, options, std::move(key.first), std::move(key.second), {}, 1, {}, {}, 0, 0, {},
                {},    false};
  counts.has_margins = input.daybook.find("margin") != nullptr;
  counts.baskets = mining::gather_baskets(input.daybook, counts.key, options.within);
  if (!options.product && counts.baskets.items.size() == counts.baskets.size())
    return data_error(fmt::format("none of the {} contains two distinct {}, so nothing is bought together.",
                                  counted(counts.baskets.size(), "basket"),
                                  analysis::plural_of(counts.item)));
  if (options.product) {
    PEAR_ASSIGN(counts.about, counts.names().find("product", *options.product));
  }
  PEAR_TRY(find_together(counts));
  return counts;
}

}  // namespace pear::together
