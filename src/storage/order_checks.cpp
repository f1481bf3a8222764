#include "storage/order_checks.hpp"

#include <fmt/format.h>

#include "base/natural_order.hpp"
#include "base/text.hpp"

namespace pear::storage {
namespace {

OrError<void> check_texts(const TextArray& texts, std::string_view whose) {
  for (std::size_t i = 1; i < texts.size(); ++i) {
    if (natural_compare(texts[i - 1], texts[i]) >= 0)
      return data_error(fmt::format("the texts of {} are not distinct and in order: {} is before {}", whose,
                                    in_quotes(texts[i - 1]), in_quotes(texts[i])));
  }
  return {};
}

/// Whether an order may follow another of the same customer.
bool is_before(const daybook::Daybook& daybook, const std::vector<std::int32_t>& days,
               const std::vector<std::int32_t>* seconds, std::uint32_t order, std::uint32_t next) {
  if (days[order] != days[next]) return days[order] < days[next];
  if (seconds != nullptr && (*seconds)[order] != (*seconds)[next])
    return (*seconds)[order] < (*seconds)[next];
  return natural_compare(daybook.order_ids()[order], daybook.order_ids()[next]) < 0;
}

OrError<void> check_orders(const daybook::Daybook& daybook) {
  const auto& days = std::get<daybook::DateValues>(daybook.find(daybook::role::kOrderDate)->values).days;
  const daybook::Column* times = daybook.find(daybook::role::kOrderTime);
  const auto* seconds = times == nullptr ? nullptr : &std::get<daybook::TimeValues>(times->values).seconds;
  const std::vector<std::uint32_t>& offsets = daybook.parts().order_offsets;
  for (std::uint32_t customer = 0; customer < daybook.customers(); ++customer) {
    for (std::uint32_t order = offsets[customer]; order + 1 < offsets[customer + 1]; ++order) {
      if (!is_before(daybook, days, seconds, order, order + 1))
        return data_error(fmt::format("the orders of customer {} are not in order",
                                      in_quotes(daybook.customer_ids()[customer])));
    }
  }
  return {};
}

OrError<void> check_lines(const daybook::Daybook& daybook) {
  const daybook::DaybookParts& parts = daybook.parts();
  for (std::uint32_t order = 0; order < daybook.orders(); ++order) {
    for (std::uint32_t line = parts.line_offsets[order]; line + 1 < parts.line_offsets[order + 1]; ++line) {
      if (parts.line_products[line] > parts.line_products[line + 1])
        return data_error(
            fmt::format("the lines of order {} are not in order", in_quotes(parts.order_ids[order])));
    }
  }
  return {};
}

}  // namespace

OrError<void> check_order(const daybook::Daybook& daybook) {
  PEAR_TRY(check_texts(daybook.customer_ids(), "customer_id"));
  PEAR_TRY(check_texts(daybook.product_ids(), "product_id"));
  for (const daybook::Column& column : daybook.parts().columns)
    if (const auto* text = std::get_if<daybook::TextValues>(&column.values))
      PEAR_TRY(check_texts(text->dictionary, column.name));
  PEAR_TRY(check_orders(daybook));
  return check_lines(daybook);
}

}  // namespace pear::storage
