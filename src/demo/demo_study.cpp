#include "demo/demo_study.hpp"

namespace pear::demo {

std::string study_file(bool has_intake) {
  std::string text =
      R"toml(# A study: questions that are asked together, again whenever there is a new export.
#   pear-thread study monthly.toml
[study]
title = "Thistledown & Reel: who buys what, and what to offer whom"
comment = "A made-up mail-order house for yarn and haberdashery, with some things planted to be found."
)toml";
  if (has_intake) text += "intake = \"shop.toml\"\n";
  return text + R"toml(daybook = "thistledown.daybook"
out = "answers"
workbook = "answers/thistledown.xlsx"

[[question]]
ask = "first"
title = "How customers begin"

[[question]]
ask = "frequency"
title = "How often they order"

[[question]]
ask = "distinct"
title = "How many different products they take"
count = "product_id"
per = "customer_id"

[[question]]
ask = "prices"
title = "What they pay"
comment = "Look at the customers whose price *nothing explains*: is it a discount that somebody granted?"

[[question]]
ask = "concentration"
title = "Whom the sales come from"

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
show = "orders"

[[question]]
ask = "baskets"
title = "What baskets bring"

[[question]]
ask = "together"
title = "What is bought together"

[[question]]
ask = "together"
name = "dye"
title = "What goes with yellow dye"
product = "P65"

[[question]]
ask = "sequence"
title = "What is bought next"

[[question]]
ask = "sequence"
name = "starter-kit"
title = "What comes after the starter kit"
product = "P43"

[[question]]
ask = "offers"
title = "What to offer whom"

[[question]]
ask = "offers"
name = "offers-proof"
title = "Is the plan worth more than best sellers?"
comment = "The plan of an earlier day, held against what was bought in the 90 days after it."
test = 90

[[question]]
ask = "customer"
title = "One customer"
id = "C101"

[[question]]
ask = "product"
title = "One product"
id = "P43"
)toml";
}

}  // namespace pear::demo
