#include "questions/baskets/pull.hpp"

#include <algorithm>
#include <cmath>

#include <absl/container/flat_hash_map.h>
#include <boost/math/distributions/students_t.hpp>
#include <tbb/blocked_range.h>
#include <tbb/parallel_for.h>

#include "questions/baskets/expected_value.hpp"

namespace pear::baskets {
namespace {

constexpr double kFewestAlike = 5;  ///< baskets of other customers to compare with

/// Baskets of a size and a month.
struct Cell {
  double baskets = 0, value = 0, squares = 0;

  void add(double value_of_basket, double times = 1) {
    baskets += times;
    value += times * value_of_basket;
    squares += times * value_of_basket * value_of_basket;
  }
  [[nodiscard]] Cell without(const Cell& part) const {
    return {baskets - part.baskets, value - part.value, squares - part.squares};
  }
  [[nodiscard]] double mean() const { return value / baskets; }
  /// Of the mean.
  [[nodiscard]] double variance() const {
    return std::max(squares / baskets - mean() * mean(), 0.0) / (baskets - 1);
  }
};
using Cells = absl::flat_hash_map<std::uint64_t, Cell>;

constexpr std::uint16_t kAnyMonth = 0xffff;
std::uint64_t cell_key(std::uint32_t size, std::uint16_t month) {
  return (std::uint64_t{size} << 16U) | month;
}

/// The score of one customer for one item, and its weight: see find_pulls().
struct Score {
  double sum = 0, weight = 0;
};

/// The items of all baskets by code.
struct Occurrences {
  std::vector<std::uint32_t> begins;     ///< by code, and the end
  std::vector<std::uint32_t> positions;  ///< in ValuedBaskets::values
  std::vector<std::uint32_t> baskets;    ///< by position, its basket

  Occurrences(const ValuedBaskets& all, std::size_t items) : begins(items + 1) {
    for (const std::uint32_t code : all.codes) ++begins[code + 1];
    for (std::size_t code = 0; code < items; ++code) begins[code + 1] += begins[code];
    positions.resize(all.codes.size());
    baskets.resize(all.codes.size());
    std::vector<std::uint32_t> next(begins.begin(), begins.end() - 1);
    for (std::uint32_t basket = 0; basket < all.size(); ++basket) {
      for (std::uint32_t i = all.begins[basket]; i < all.begins[basket + 1]; ++i) {
        positions[next[all.codes[i]]++] = i;
        baskets[i] = basket;
      }
    }
  }
};

class PullFinder {
 public:
  PullFinder(const ValuedBaskets& baskets, std::size_t items)
      : baskets_(baskets), expected_(baskets), of_items_(baskets, items) {
    for (std::size_t basket = 0; basket < baskets.size(); ++basket) {
      if (basket == 0 || baskets.customers[basket] != baskets.customers[basket - 1])
        customers_.push_back({basket, basket, 0, 0, 0});
      Customer& customer = customers_.back();
      customer.end = basket + 1;
      customer.value += value(basket);
      customer.expected += expected(basket);
      customer.items += baskets.size_of(basket);
      add(cells_, basket);
      customer_of_.push_back(static_cast<std::uint32_t>(customers_.size() - 1));
    }
  }

  [[nodiscard]] std::optional<Pull> of(std::size_t code) const {
    const auto begin = of_items_.positions.begin();
    const std::span<const std::uint32_t> all(begin + of_items_.begins[code],
                                             begin + of_items_.begins[code + 1]);
    Cells with;
    for (const std::uint32_t position : all) add(with, of_items_.baskets[position]);
    std::vector<Score> scores;
    Cells compared;  // `baskets`: how many were compared with a cell; `value`: with how much of it
    for (std::size_t i = 0, end = 0; i < all.size(); i = end) {
      const std::uint32_t customer = customer_of_[of_items_.baskets[all[i]]];
      while (end < all.size() && customer_of_[of_items_.baskets[all[end]]] == customer) ++end;
      const auto own = all.subspan(i, end - i);
      std::optional<Score> score = within_customer(customers_[customer], own);
      if (!score) score = among_others(own, with, compared);
      if (score->weight > 0) scores.push_back(*score);
    }
    return pull_of(scores, variance_of_others(with, compared));
  }

 private:
  struct Customer {
    std::size_t begin = 0, end = 0;  ///< baskets
    double value = 0, expected = 0;
    std::size_t items = 0;

    [[nodiscard]] std::size_t baskets() const { return end - begin; }
  };

  [[nodiscard]] double value(std::size_t basket) const {
    return static_cast<double>(expected_.values()[basket]);
  }
  [[nodiscard]] double expected(std::size_t basket) const {
    return baskets_.size_of(basket) * expected_.of_item(basket);
  }
  void add(Cells& cells, std::size_t basket) const {
    for (const std::uint16_t month : {baskets_.months[basket], kAnyMonth})
      cells[cell_key(baskets_.size_of(basket), month)].add(value(basket));
  }

  /// Baskets with the item, given by position, compared with the customer's other baskets; nothing if these
  /// contain fewer items.
  [[nodiscard]] std::optional<Score> within_customer(const Customer& customer,
                                                     std::span<const std::uint32_t> positions) const {
    double others = customer.value, expected_others = customer.expected, rest = 0, expected_rest = 0;
    std::size_t items = 0;
    for (const std::uint32_t position : positions) {
      const std::uint32_t basket = of_items_.baskets[position];
      items += baskets_.size_of(basket);
      others -= value(basket);
      expected_others -= expected(basket);
      rest += value(basket) - static_cast<double>(baskets_.values[position]);
      expected_rest += expected(basket) - expected_.of_item(basket);
    }
    if (positions.size() == customer.baskets() || customer.items - items < items - positions.size()) return {};
    return Score{rest - expected_rest / expected_others * others, static_cast<double>(positions.size())};
  }

  /// Baskets with the item compared with other customers' baskets of the same size.
  [[nodiscard]] Score among_others(std::span<const std::uint32_t> positions, const Cells& with,
                                   Cells& compared) const {
    Score score;
    for (const std::uint32_t position : positions) {
      const std::uint32_t basket = of_items_.baskets[position], size = baskets_.size_of(basket);
      if (size == 1) {
        ++score.weight;
        continue;
      }
      for (const std::uint16_t month : {baskets_.months[basket], kAnyMonth}) {
        const std::uint64_t key = cell_key(size, month);
        const Cell others = cells_.at(key).without(with.at(key));
        if (others.baskets < kFewestAlike) continue;
        const double share = (size - 1.0) / size;
        score.sum += value(basket) - static_cast<double>(baskets_.values[position]) - share * others.mean();
        ++score.weight;
        compared[key].value += share;
        break;
      }
    }
    return score;
  }

  /// Of the sum of scores, because means of other customers' baskets vary, too.
  [[nodiscard]] double variance_of_others(const Cells& with, const Cells& compared) const {
    std::vector<std::uint64_t> keys;  // in a fixed order, so that the sum is always the same
    for (const auto& [key, cell] : compared) keys.push_back(key);
    std::sort(keys.begin(), keys.end());
    double variance = 0;
    for (const std::uint64_t key : keys) {
      const double times = compared.at(key).value;
      variance += times * times * cells_.at(key).without(with.at(key)).variance();
    }
    return variance;
  }

  static std::optional<Pull> pull_of(const std::vector<Score>& scores, double variance_of_others) {
    double sum = 0, weight = 0, weight_squares = 0, squares = variance_of_others, spread = variance_of_others;
    for (const Score& score : scores) {
      sum += score.sum;
      weight += score.weight;
      weight_squares += score.weight * score.weight;
      squares += score.sum * score.sum;
    }
    if (weight == 0) return {};
    Pull pull{sum / weight, NAN, NAN, 1};
    for (const Score& score : scores) spread += std::pow(score.sum - pull.pull * score.weight, 2);
    const double clusters = weight * weight / weight_squares;  // as many as if all had the same weight
    if (clusters < 2) return pull;
    const boost::math::students_t t(clusters - 1);
    const double half = boost::math::quantile(boost::math::complement(t, 0.025)) *
                        std::sqrt(spread * clusters / (clusters - 1)) / weight;
    pull.low = pull.pull - half;
    pull.high = pull.pull + half;
    if (squares > 0) pull.p_value = boost::math::cdf(boost::math::complement(t, sum / std::sqrt(squares)));
    return pull;
  }

  const ValuedBaskets& baskets_;
  ExpectedValue expected_;
  Occurrences of_items_;
  std::vector<Customer> customers_;
  std::vector<std::uint32_t> customer_of_;  ///< by basket, its place in customers_
  Cells cells_;
};

}  // namespace

void ValuedBaskets::append(const ValuedBaskets& later) {
  const auto base = static_cast<std::uint32_t>(codes.size());
  for (std::size_t basket = 1; basket < later.begins.size(); ++basket)
    begins.push_back(base + later.begins[basket]);
  customers.insert(customers.end(), later.customers.begin(), later.customers.end());
  months.insert(months.end(), later.months.begin(), later.months.end());
  codes.insert(codes.end(), later.codes.begin(), later.codes.end());
  values.insert(values.end(), later.values.begin(), later.values.end());
}

std::vector<std::optional<Pull>> find_pulls(const ValuedBaskets& baskets, std::size_t items) {
  std::vector<std::optional<Pull>> pulls(items);
  if (baskets.size() == 0) return pulls;
  const PullFinder finder(baskets, items);
  tbb::parallel_for(std::size_t{0}, items, [&](std::size_t code) { pulls[code] = finder.of(code); });
  return pulls;
}

}  // namespace pear::baskets
