// Steps from one product to another, found among all pairs and told apart from one another.
#pragma once

#include <array>
#include <cstdint>
#include <span>
#include <vector>

#include "question/customer_groups.hpp"
#include "question/histories.hpp"
#include "question/offer_chances.hpp"
#include "question/offer_links.hpp"
#include "question/offer_lookback.hpp"

namespace pear {

/// Customers who were looked at and what they bought within the horizon. A customer is a case at each
/// landmark.
struct Seen {
  std::uint32_t cases = 0, buys = 0;
  std::uint32_t customers = 0;  ///< different ones among the cases

  [[nodiscard]] double rate() const { return cases == 0 ? 0 : static_cast<double>(buys) / cases; }
};

/// What is known of customers before any step: what they buy anyway.
struct OfferBase {
  const Histories& histories;
  const Lookback& lookback;
  const CustomerGroups& groups;
  const Shelves& shelves;
  const ExpectedItems& items;
  const Shares& shares;
};

/// Customers who had bought the earlier product last so long ago, and not yet the later one (or who may buy
/// the same again).
struct FoundCell {
  std::uint8_t band = 0;
  Seen seen;
  double expected = 0;  ///< purchases of the later one that there would have been anyway
  /// What is so of the customers of each group.
  struct OfGroup {
    Seen seen;
    double excess = 0;  ///< of those who would not have bought it without this step, the share that does
  };
  std::vector<OfGroup> groups;
};

struct FoundStep {
  std::uint32_t earlier = 0, later = 0;
  double p = 1;  ///< of so many purchases by chance
  std::vector<FoundCell> cells;
};

/// Pairs that are followed by so many more purchases than expected that it is no chance: binomial tests over
/// the first 30, 60 and 120 days since the earlier purchase and over all (the surest, by Bonferroni), with q
/// <= 0.05 (Benjamini and Hochberg) among the pairs of their kind. Purchases that several landmarks see count
/// once. Left out are pairs that surely add less than two in a hundred over any time. In order of the earlier
/// and the later one. On all threads; the same for any number of them.
[[nodiscard]] std::vector<FoundStep> find_steps(const OfferBase& base, const ProductBuyers& buyers,
                                                const OfferLinks& links);

/// By group and product, purchases of customers whom no step leads to it, by those expected of them, each
/// drawn to the ratio of all as if 20 more had been bought like that: what is often bought after something
/// else is bought less without it. Of customers and products up to 20 million pairs are looked at, evenly
/// spread. On all threads.
[[nodiscard]] std::vector<double> unled_ratios(const OfferBase& base, const std::vector<FoundStep>& steps);

/// Works out what each step adds. The steps to one product are taken one after another, first the one after
/// which surely most buy it, and of what follows a step only that counts which those before it do not
/// explain: who bought A and then B goes on to C because of B. Eight steps to a product at most. What a step
/// adds is told by band and group. Ratios of seen to expected purchases are shrunk: of all as if 3 more
/// customers had bought as expected, those of the bands to that of the band before, by how much the bands
/// spread, as gamma distributed (empirical Bayes; DuMouchel, Bayesian data mining in large frequency tables,
/// American Statistician 53, 1999); what a group does, to what all do. On all threads.
void refine_steps(const OfferBase& base, const ProductBuyers& buyers, std::vector<FoundStep>& steps);

/// How many more of a case buy than would anyway, from the earlier purchase up to the band where that is
/// most, at the lower end of the 95% interval of their share.
[[nodiscard]] double surely_more(const FoundStep& step, double overlap);

/// What was seen and expected in one band.
struct BandCount {
  double buys = 0, cases = 0, expected = 0;
};

/// The chance of so many purchases or more in the stretch of bands that is the surest, by the number of
/// stretches; purchases and cases that several landmarks see count once.
[[nodiscard]] double chance_of_stretches(std::span<const BandCount> bands, double overlap);

}  // namespace pear
