#include "pushdown/questions/prices.hpp"

#include <algorithm>
#include <utility>

#include "pushdown/members_in_sql.hpp"
#include "pushdown/questions/price_statements.hpp"
#include "questions/prices/question.hpp"

namespace pear::pushdown {

OrError<result::Result> answer_prices(const analysis::OptionValues& values, const SelectedLines& lines,
                                      const analysis::QuestionInput& input) {
  PEAR_ASSIGN(prices::Options options, analysis::read_options(prices::option_declarations(), values));
  const bool explains = lines.session.explains();
  if (options.product) {
    PEAR_ASSIGN(options.product, find_product(lines, *options.product));
  }
  const PriceStatements statements(lines, options);
  const MemberCodes customer_codes(input.daybook.customer_ids()), product_codes(input.daybook.product_ids());
  const std::uint32_t count = input.daybook.products();
  PEAR_ASSIGN(std::vector<prices::ProductPrices> products, statements.products(product_codes, count));
  PEAR_TRY(
      prices::check_prices(options, statements.has_list(),
                           explains || std::any_of(products.begin(), products.end(),
                                                   [](const auto& each) { return each.customers > 0; })));
  std::vector<prices::CustomerPrices> customers;
  std::vector<prices::MonthPrices> months;
  if (options.product) {
    PEAR_ASSIGN(months, statements.months());
  } else {
    PEAR_ASSIGN(customers, statements.customers(customer_codes, product_codes));
  }
  PEAR_ASSIGN(prices::CustomerProductPrices pairs, statements.pairs(customer_codes, product_codes, count));
  if (explains) return result::Result{};
  std::optional<std::uint32_t> product;
  if (options.product) {
    PEAR_ASSIGN(product, product_codes[options.product]);
  }
  prices::Counts counts = prices::counts_of(
      input, options, product,
      prices::PriceComparison::of_products(std::move(pairs), std::move(products), options.against),
      std::move(customers));
  counts.months = std::move(months);
  counts.has_tests = false;
  return prices::result_of(counts);
}

}  // namespace pear::pushdown
