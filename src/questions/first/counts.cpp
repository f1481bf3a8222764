#include "questions/first/counts.hpp"

#include <algorithm>
#include <utility>

#include <fmt/format.h>

#include "analysis/tables/member_column.hpp"
#include "analysis/wording.hpp"
#include "base/text.hpp"

namespace pear::first {
namespace {

/// The key of --per, or that of products. Errors: usage.
OrError<expression::GroupKey> entry_key_of(const expression::LineView& lines, const Options& options) {
  if (options.per) {
    PEAR_ASSIGN(std::vector<expression::GroupKey> keys, analysis::keys_of("per", {*options.per}, lines));
    if (keys.front().level == daybook::Level::customer)
      return usage_error(
          fmt::format("--per {}: it is the same in all purchases of a customer. Use a column of products, "
                      "orders or lines; --by compares customers.",
                      options.per->text));
    return std::move(keys.front());
  }
  return analysis::id_key(lines.daybook(), daybook::Level::product);
}

/// Error: data, if an amount is out of the range of Decimal.
OrError<void> check_amounts(const Counts& counts) {
  if (std::any_of(counts.beginnings.begin(), counts.beginnings.end(),
                  [](const FirstOrders& each) { return each.too_large; }))
    return data_error(
        "the amounts of one customer add up to more than 922,337,203,685,477. Look for wrong prices.");
  for (const MonthFacts& facts : counts.months)
    if (!facts.first_amount.total())
      return data_error(fmt::format(
          "the first orders of {} add up to more than 922,337,203,685,477. Look for wrong prices.",
          to_text(facts.month)));
  return {};
}

}  // namespace

std::string Counts::entry_noun() const {
  return options.per ? analysis::noun_of(options.per->name) : "product";
}

std::string Counts::label(const Entry& entry) const {
  return analysis::label_with_name(daybook(), entry_key, entry.code);
}

std::string Counts::followed() const { return counted(static_cast<std::uint64_t>(options.follow), "day"); }

std::vector<Entry> Counts::comparable_entries() const {
  std::vector<Entry> enough;
  for (const Entry& entry : entries.entries)
    if (entry.followed >= static_cast<std::uint64_t>(options.at_least)) enough.push_back(entry);
  return enough;
}

OrError<std::shared_ptr<const Counts>> count_from(std::vector<FirstOrders> beginnings, std::int64_t run_in,
                                                  analysis::QuestionInput input, const Options& options) {
  const auto kept = std::make_shared<Counts>();
  Counts& counts = *kept;
  counts.input = std::move(input);
  counts.options = options;
  counts.run_in = run_in;
  counts.beginnings = std::move(beginnings);
  const daybook::Daybook& daybook = counts.daybook();
  const expression::LineView lines(daybook, counts.input.grains);
  for (std::uint32_t customer = 0; customer < counts.beginnings.size(); ++customer)
    if (counts.beginnings[customer].has_order()) counts.customers.push_back(customer);
  PEAR_ASSIGN(counts.groups, analysis::group_customers(options.by, lines));
  counts.months = months_of(daybook, counts.beginnings, counts.groups);
  PEAR_TRY(check_amounts(counts));
  PEAR_ASSIGN(counts.entry_key, entry_key_of(lines, options));
  PEAR_ASSIGN(counts.entries, entry_products_of(daybook, counts.entry_key, counts.beginnings));
  set_q_values(counts.entries, static_cast<std::uint64_t>(options.at_least));
  if (options.per) counts.first_buys.emplace(daybook, counts.entry_key);
  return kept;
}

OrError<std::shared_ptr<const Counts>> count(analysis::QuestionInput input, const Options& options) {
  const daybook::Daybook& daybook = input.daybook;
  const Date begin = input.population.first_date.value_or(input.data_end);
  const std::int64_t run_in = options.run_in.value_or(usual_run_in(daybook, begin, input.data_end));
  const Date new_from{begin.days + static_cast<std::int32_t>(run_in)};
  std::vector<FirstOrders> beginnings = first_orders_of(daybook, options.follow, new_from, input.data_end);
  return count_from(std::move(beginnings), run_in, std::move(input), options);
}

}  // namespace pear::first
