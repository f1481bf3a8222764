#include "questions/offers/figure.hpp"

#include <algorithm>
#include <utility>

#include <fmt/format.h>

#include "analysis/tables/table_builder.hpp"
#include "analysis/wording.hpp"
#include "base/text.hpp"
#include "questions/offers/finding.hpp"

namespace pear::offers {

std::vector<result::Figure> figures_of(const Counts& counts) {
  constexpr std::size_t kBars = 12;
  std::vector<ProductSum> sums = sums_by_product(counts);
  if (sums.empty()) return {};
  result::Figure figure;
  figure.title = product_sentence(counts, sums.front());
  figure.subtitle = fmt::format(
      "{} expected within {} from offers made on {}, by product{}; {}",
      counts.has_margins() ? "Margin" : "Sales", analysis::days_text(counts.purchases().landmarks.horizon),
      to_text(Date{counts.as_of.days + 1}),
      sums.size() > kBars ? fmt::format(", the first {} of {}", kBars, sums.size()) : "",
      counted(counts.contacted, "offer"));
  sums.resize(std::min(sums.size(), kBars));
  analysis::TableBuilder builder(figure.marks, sums);
  builder.text("product", "The offered product.",
               [&](const ProductSum& sum) { return counts.names().title(sum.product); });
  builder.money("expected", "The expected value.", [](const ProductSum& sum) { return sum.value; });
  result::RankedBarChart chart;
  chart.label = "product";
  chart.value = "expected";
  chart.noticed = {0};
  figure.chart = std::move(chart);
  return {figure};
}

}  // namespace pear::offers
