#include "recommender/segment_choice.hpp"

#include <cmath>
#include <utility>

#include <fmt/format.h>

#include "daybook/daybook.hpp"
#include "expression/syntax/parse.hpp"

namespace pear::recommender {
namespace {

/// Counts of first purchases by value of a column and product.
class Counts {
 public:
  Counts(const daybook::TextValues& values, const mining::Histories& histories)
      : values_(static_cast<std::uint32_t>(values.dictionary.size()) + 1),
        products_(histories.counts.size()),
        counts_(values_ * products_) {
    for (std::uint32_t customer = 0; customer < histories.customers(); ++customer) {
      const std::uint32_t value = std::min(values.codes[customer], values_ - 1);
      for (const mining::HistoryEntry& entry : histories.of(customer))
        counts_[value * products_ + entry.code] += entry.is_first;
    }
  }

  /// In nats a purchase, minus its bias; below 0 if it is no more than expected by chance.
  [[nodiscard]] double information() const {
    std::vector<double> of_value(values_), of_product(products_);
    double all = 0;
    for (std::size_t value = 0; value < values_; ++value)
      for (std::size_t product = 0; product < products_; ++product) {
        const double count = counts_[value * products_ + product];
        of_value[value] += count, of_product[product] += count, all += count;
      }
    double sum = 0, used_values = 0, used_products = 0;
    for (const double count : of_value) used_values += count > 0 ? 1 : 0;
    for (const double count : of_product) used_products += count > 0 ? 1 : 0;
    for (std::size_t value = 0; value < values_; ++value)
      for (std::size_t product = 0; product < products_; ++product) {
        const double count = counts_[value * products_ + product];
        if (count > 0) sum += count * std::log(count * all / (of_value[value] * of_product[product]));
      }
    return (sum - (used_values - 1) * (used_products - 1) / 2) / all;
  }

 private:
  std::uint32_t values_;
  std::size_t products_;
  std::vector<std::uint32_t> counts_;
};

/// The name of the most informative column of customers; empty if none is informative.
std::string describing_column(const daybook::Daybook& daybook, const mining::Histories& histories) {
  constexpr std::size_t kMostValues = 50;
  std::string best;
  double most = 0;
  for (const daybook::Column& column : daybook.parts().columns) {
    const auto* values = std::get_if<daybook::TextValues>(&column.values);
    if (column.level != daybook::Level::customer || values == nullptr || values->dictionary.size() < 2 ||
        values->dictionary.size() > kMostValues)
      continue;
    const double information = Counts(*values, histories).information();
    if (information > most) best = column.name, most = information;
  }
  return best;
}

}  // namespace

OrError<analysis::CustomerGroups> choose_segments(const std::optional<expression::Tree>& input,
                                                  const expression::LineView& lines,
                                                  const mining::Histories& histories) {
  constexpr std::uint32_t kMostGroups = 100;
  std::vector<expression::Tree> by;
  if (input) {
    by.push_back(*input);
  } else if (const std::string column = describing_column(lines.daybook(), histories); !column.empty()) {
    PEAR_ASSIGN(by, expression::parse_list("\"" + column + "\""));
    by.front().name = column;
  }
  return analysis::group_customers(by, lines, "per", kMostGroups);  // more are too small to learn from
}

}  // namespace pear::recommender
