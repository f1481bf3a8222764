#include "demo/demo_study.hpp"

namespace pear::demo {

std::string study_file(bool has_intake) {
  std::string text =
      R"toml(# A study: questions that run together, again with every new export.
#   pear-thread study monthly.toml
[study]
title = "Thistledown & Reel: who buys what, and what to offer whom"
comment = "A made-up mail-order business for yarn and haberdashery, with planted structure to find."
)toml";
  if (has_intake) text += "intake = \"shop.toml\"\n";
  return text + R"toml(daybook = "thistledown.daybook"
out = "answers"
workbook = "answers/thistledown.xlsx"

[[question]]
ask = "first"
title = "First purchases and repeat rate"

[[question]]
ask = "frequency"
title = "How often customers order"

[[question]]
ask = "distinct"
title = "Distinct products per customer"
count = "product_id"
per = "customer_id"

[[question]]
ask = "prices"
title = "Prices paid"
comment = "Check the customers whose price *volume does not explain*: did somebody grant a discount?"

[[question]]
ask = "concentration"
title = "Concentration of sales"

[[question]]
ask = "crosstab"
title = "Sales by region and year"
down = "region"
across = "year"

[[question]]
ask = "crosstab"
name = "season"
title = "Orders by month of the year"
down = "month_of_year"
count = "orders"

[[question]]
ask = "baskets"
title = "Baskets and their margin"

[[question]]
ask = "together"
title = "Products bought together"

[[question]]
ask = "together"
name = "dye"
title = "Products bought together with yellow dye"
product = "P65"

[[question]]
ask = "sequence"
title = "Products bought next"

[[question]]
ask = "sequence"
name = "starter-kit"
title = "Products bought after the starter kit"
product = "P43"

[[question]]
ask = "offers"
title = "The cross-selling plan"

[[question]]
ask = "offers"
name = "offers-backtest"
title = "Is the plan better than best sellers?"
comment = "Plans of earlier days, backtested on the purchases of the 90 days after them."
test = 90

[[question]]
ask = "customer"
title = "One customer's history"
find = "C101"

[[question]]
ask = "product"
title = "One product"
find = "P43"
)toml";
}

}  // namespace pear::demo
