// Groups of customers, keys with many values, times with gaps, members by name, and populations, against
// their definitions.
#include <algorithm>
#include <map>
#include <set>

#include <fmt/format.h>
#include <gtest/gtest.h>
#include <rapidcheck/gtest.h>

#include "analysis/customer_groups.hpp"
#include "analysis/figure_cutoff.hpp"
#include "analysis/find_member.hpp"
#include "analysis/frequent_values.hpp"
#include "analysis/population.hpp"
#include "analysis/progress.hpp"
#include "analysis/time_keys.hpp"
#include "analysis/wording.hpp"
#include "base/natural_order.hpp"
#include "daybook/columns/derived_columns.hpp"
#include "expression/rows/line_view.hpp"
#include "expression/syntax/parse.hpp"
#include "support/random_shop.hpp"

namespace pear::test {
namespace {

/// A key of `distinct` texts, with the code of each member; the last code is the empty value.
expression::GroupKey key_of(const std::vector<std::string>& labels, std::vector<std::uint32_t> codes,
                            std::string source = "region") {
  expression::GroupKey key;
  key.source = std::move(source);
  key.type = expression::ValueType::text;
  key.codes = std::move(codes);
  key.distinct = static_cast<std::uint32_t>(labels.size());
  daybook::TextValues texts;
  for (const std::string& label : labels) texts.dictionary.push_back(label);
  key.labels = std::move(texts);
  return key;
}

std::vector<std::string> labels_of(const expression::GroupKey& key) {
  std::vector<std::string> labels;
  for (const std::uint32_t code : key.codes) labels.push_back(expression::label_text(key, code));
  return labels;
}

RC_GTEST_PROP(FrequentValues, AreKeptAndTheOthersCombined, ()) {
  std::vector<std::string> labels;
  for (int i = pick(1, 8); i > 0; --i) labels.push_back(fmt::format("v{}", labels.size()));
  std::vector<std::uint32_t> codes;
  for (int i = pick(0, 40); i > 0; --i)
    codes.push_back(static_cast<std::uint32_t>(pick(0, static_cast<int>(labels.size()))));
  expression::GroupKey key = key_of(labels, codes);
  const std::vector<std::string> before = labels_of(key);
  const auto most = static_cast<std::uint32_t>(pick(1, 8));
  std::map<std::string, int> frequency;
  for (const std::string& label : labels) frequency[label] = 0;
  for (const std::string& label : before)
    if (label != "(empty)") ++frequency[label];
  std::vector<std::string> ranked = labels;
  std::stable_sort(ranked.begin(), ranked.end(),
                   [&](const auto& a, const auto& b) { return frequency[a] > frequency[b]; });
  const std::set<std::string> kept(
      ranked.begin(),
      ranked.begin() + static_cast<std::ptrdiff_t>(std::min<std::size_t>(most, ranked.size())));
  const std::uint32_t combined = analysis::keep_most_frequent(key, most);
  RC_ASSERT(combined == labels.size() - kept.size());
  const std::vector<std::string> after = labels_of(key);
  for (std::size_t i = 0; i < before.size(); ++i)
    RC_ASSERT(after[i] == (before[i] == "(empty)" || kept.contains(before[i])
                               ? before[i]
                               : fmt::format("other ({})", combined)));
  RC_ASSERT(key.distinct == kept.size() + (combined > 0 ? 1 : 0));
}

/// Months, quarters and years between the first and the last appear, and every member keeps its own.
RC_GTEST_PROP(TimeKeys, HaveNoGaps, ()) {
  const std::string source = *rc::gen::element<std::string>("month", "first_month", "quarter", "week");
  const int per_year = source == "quarter" ? 4 : 12;
  const auto text = [&](int number) {
    return per_year == 4 ? fmt::format("{:04}-Q{}", number / 4, number % 4 + 1)
                         : fmt::format("{:04}-{:02}", number / 12, number % 12 + 1);
  };
  std::set<int> numbers;
  for (int i = pick(1, 6); i > 0; --i) numbers.insert(2020 * per_year + pick(0, 30));
  std::vector<std::string> labels;
  for (const int number : numbers) labels.push_back(text(number));
  std::vector<std::uint32_t> codes;
  for (std::uint32_t code = 0; code <= labels.size(); ++code) codes.push_back(code);
  expression::GroupKey key = key_of(labels, codes, source);
  const std::vector<std::string> before = labels_of(key);
  analysis::fill_times(key);
  RC_ASSERT(labels_of(key) == before);
  const bool is_filled = source != "week" && numbers.size() > 1;
  RC_ASSERT(key.has_gaps_filled == is_filled);
  RC_ASSERT(key.distinct == (is_filled ? static_cast<std::uint32_t>(*numbers.rbegin() - *numbers.begin() + 1)
                                       : labels.size()));
  for (std::uint32_t code = 0; is_filled && code < key.distinct; ++code)
    RC_ASSERT(expression::label_text(key, code) == text(*numbers.begin() + static_cast<int>(code)));
  RC_ASSERT(analysis::is_time(key));
  key.source = "region";
  RC_ASSERT(!analysis::is_time(key));
}

/// The group of each customer is the combination of its values, and groups are in the order of their keys.
RC_GTEST_PROP(CustomerGroups, AreTheCombinationsOfTheirKeys, ()) {
  const daybook::Daybook daybook = daybook::completed(random_daybook(), {"first_year", "customer_orders"});
  const expression::LineView lines(daybook);
  std::vector<expression::Tree> by;
  for (const char* text : {"region", "customer_orders > 1", "first_year"})
    if (pick(0, 1) == 1) by.push_back(*expression::parse_tree(text));
  const auto groups = analysis::group_customers(by, lines);
  RC_ASSERT(groups.has_value());
  RC_ASSERT(groups->is_split() == !by.empty());
  std::map<std::string, std::uint32_t> group_of_label;
  std::set<std::uint32_t> used;
  for (std::uint32_t customer = 0; customer < daybook.customers(); ++customer) {
    std::string label;
    for (const expression::Tree& tree : by) {
      const auto compiled = expression::Expression::compile(tree.text, lines.schema());
      const std::uint32_t line = daybook.lines_of(daybook.orders_of(customer).begin).begin;
      const expression::Values values = compiled->evaluate(lines.rows(), line, line + 1);
      label += (label.empty() ? "" : " / ") + (values.states[0] == expression::ValueState::empty
                                                   ? std::string("(empty)")
                                                   : expression::value_text(values, 0));
    }
    RC_ASSERT(groups->label(groups->group_of(customer)) == label);
    RC_ASSERT(group_of_label.emplace(label, groups->group_of(customer)).first->second ==
              groups->group_of(customer));
    used.insert(groups->group_of(customer));
  }
  RC_ASSERT(used.size() == groups->count);
  RC_ASSERT(*used.rbegin() + 1 == groups->count);
  for (std::uint32_t group = 1; group < groups->count; ++group) {
    std::vector<std::uint32_t> earlier, later;
    for (const auto& codes : groups->codes) {
      earlier.push_back(codes[group - 1]);
      later.push_back(codes[group]);
    }
    RC_ASSERT(earlier < later);
  }
}

TEST(CustomerGroups, NeedOneValueOfACustomer) {
  const daybook::Daybook daybook = build({{"A1", "2024-01-01", "C1", "P1", 1, 150}}).daybook;
  const expression::LineView lines(daybook);
  const auto groups = analysis::group_customers({*expression::parse_tree("product_id")}, lines, "split");
  ASSERT_FALSE(groups);
  EXPECT_EQ(groups.error().message,
            "--split product_id: a customer can have several values of it, but this question assigns each "
            "customer to one group. "
            "Use a column of customers, or select with --where.");
}

/// A shop whose products have names.
daybook::Daybook with_names(const std::vector<std::string>& ids, const std::vector<std::string>& names) {
  Sales sales;
  for (const std::string& id : ids) sales.push_back({"A1", "2024-01-01", "C1", id, 1, 150});
  daybook::DaybookParts parts = build(sales).daybook.take_parts();
  daybook::TextValues values;
  for (std::uint32_t i = 0; i < parts.product_ids.size(); ++i) {
    const auto place =
        static_cast<std::size_t>(std::find(ids.begin(), ids.end(), parts.product_ids[i]) - ids.begin());
    values.codes.push_back(i);
    values.dictionary.push_back(names[place]);
  }
  parts.columns.push_back({"product_name", daybook::Level::product, std::move(values)});
  return daybook::Daybook(std::move(parts));
}

RC_GTEST_PROP(FindMembers, FindsTheClosestKindOfMatch, ()) {
  const std::string words[] = {"a", "A", "ab", "AB", "b", "xa", "Äb", "äB"};
  std::vector<std::string> ids, names;
  for (int i = pick(1, 5); i > 0; --i) {
    const std::string id = words[pick(0, 7)];
    if (std::find(ids.begin(), ids.end(), id) != ids.end()) continue;
    ids.push_back(id);
    names.push_back(words[pick(0, 7)]);
  }
  const daybook::Daybook daybook = with_names(ids, names);
  const std::string text = words[pick(0, 7)];
  const auto lower = [](std::string word) {
    for (char& c : word) c = static_cast<char>(c >= 'A' && c <= 'Z' ? c + 32 : c);
    return word.starts_with("\xC3\x84") ? "\xC3\xA4" + word.substr(2) : word;
  };
  const auto matches = [&](int kind, const std::string& id, const std::string& name) {
    return kind == 0   ? id == text
           : kind == 1 ? lower(id) == lower(text)
           : kind == 2 ? name == text
           : kind == 3 ? lower(name) == lower(text)
                       : lower(id).find(lower(text)) != std::string::npos ||
                             lower(name).find(lower(text)) != std::string::npos;
  };
  std::vector<std::string> wanted;
  for (int kind = 0; kind < 5 && wanted.empty(); ++kind)
    for (std::size_t i = 0; i < ids.size(); ++i)
      if (matches(kind, ids[i], names[i])) wanted.push_back(ids[i]);
  std::sort(wanted.begin(), wanted.end(), NaturalLess{});
  const auto found = analysis::find_members(daybook, daybook::Level::product, text);
  const auto one = analysis::find_one(daybook, daybook::Level::product, text);
  RC_ASSERT(found.has_value() == !wanted.empty());
  RC_ASSERT(one.has_value() == (wanted.size() == 1));
  if (!found) {
    RC_ASSERT(found.error().message.starts_with(fmt::format(
        "there is no product with \"{}\" in its id or name among the selected {}.", text, ids.size())));
    return;
  }
  std::vector<std::string> given;
  for (const std::uint32_t member : *found) given.emplace_back(daybook.product_ids()[member]);
  RC_ASSERT(given == wanted);
  if (wanted.size() > 1)
    RC_ASSERT(one.error().message.starts_with(
        fmt::format("{} products match \"{}\". Use the id of one: ", wanted.size(), text)));
}

RC_GTEST_PROP(Populations, CountWhatTheSelectionContains, ()) {
  Sales sales = random_sales();
  const bool any_fee = pick(0, 1) == 1;
  for (Sale& sale : sales) sale.is_fee = any_fee && pick(0, 3) == 0;
  const daybook::Daybook daybook = build(sales).daybook;
  const result::Population population = analysis::population_of(daybook);
  std::set<std::string> customers;
  std::set<std::pair<std::string, std::string>> orders;
  std::uint64_t returns = 0, fees = 0;
  std::int64_t amount = 0, fee_amount = 0;
  for (const Sale& sale : sales) {
    const bool is_return = sale.quantity < 0 || sale.quantity * sale.unit_price < 0;
    const std::int64_t units = sale.quantity * sale.unit_price * 100;
    customers.insert(sale.customer_id);
    amount += units;
    returns += is_return ? 1 : 0;
    fees += sale.is_fee && !is_return ? 1 : 0;
    fee_amount += sale.is_fee ? units : 0;
    if (!is_return && !sale.is_fee) orders.insert({sale.customer_id, sale.order_id});
  }
  RC_ASSERT(population.customers == customers.size());
  RC_ASSERT(population.lines == sales.size());
  RC_ASSERT(population.returns == returns);
  RC_ASSERT(population.fee_lines == fees);
  RC_ASSERT(population.amount->units() == amount);
  const bool has_fees = std::any_of(sales.begin(), sales.end(), [](const Sale& sale) { return sale.is_fee; });
  RC_ASSERT(population.fees.has_value() == has_fees);
  if (has_fees) RC_ASSERT(population.fees->units() == fee_amount);
  if (!has_fees) RC_ASSERT(population.orders == orders.size());
}

TEST(Progress, OfPartsAndThreads) {
  std::vector<std::pair<std::uint64_t, std::uint64_t>> seen;
  const analysis::Progress whole = [&](std::uint64_t done, std::uint64_t all) {
    seen.emplace_back(done, all);
  };
  const analysis::Progress part = analysis::part_of(whole, 40, 60);
  part(0, 5);
  part(5, 5);
  analysis::ParallelProgress progress(whole, 10);
  progress.advance();
  progress.advance(3);
  EXPECT_EQ(seen,
            (std::vector<std::pair<std::uint64_t, std::uint64_t>>{{200, 500}, {300, 500}, {1, 10}, {4, 10}}));
  EXPECT_FALSE(analysis::part_of({}, 0, 100));
}

TEST(FigureCutoff, ShowsEnoughButNotTooMany) {
  const auto of = [](const std::vector<std::uint64_t>& counts, std::size_t most) {
    const analysis::FigureCutoff cutoff = analysis::cutoff_for(counts, most);
    return std::pair(cutoff.shown, cutoff.gathers);
  };
  EXPECT_EQ(of({50, 30, 20}, 10), (std::pair<std::size_t, bool>{3, false}));
  EXPECT_EQ(of({98, 1, 1}, 10), (std::pair<std::size_t, bool>{1, true})) << "98% are enough";
  EXPECT_EQ(of({97, 2, 1}, 10), (std::pair<std::size_t, bool>{2, true}));
  EXPECT_EQ(of({25, 25, 25, 25}, 3), (std::pair<std::size_t, bool>{2, true})) << "two, and the others";
  EXPECT_EQ(of({}, 3), (std::pair<std::size_t, bool>{0, false}));
}

TEST(Wording, NounsAndNumbers) {
  const std::pair<const char*, const char*> plurals[] = {
      {"product", "products"}, {"category", "categories"}, {"day", "days"},
      {"key", "keys"},         {"box", "boxes"},           {"branch", "branches"},
      {"dish", "dishes"},      {"class", "classes"},       {"toy", "toys"},
      {"buy", "buys"},         {"month", "months"}};
  for (const auto& [noun, plural] : plurals) EXPECT_EQ(analysis::plural_of(noun), plural);
  EXPECT_EQ(analysis::noun_of("product_id"), "product");
  EXPECT_EQ(analysis::noun_of("first_month"), "first month");
  EXPECT_EQ(analysis::noun_of("_id"), " id") << "nothing would be left";
  EXPECT_EQ(analysis::per_cent(std::uint64_t{1}, 3) + analysis::per_cent(std::uint64_t{0}, 0) +
                analysis::per_cent(0.9996),
            "33.3%0.0%100.0%");
  EXPECT_EQ(analysis::days_text(1) + ", " + analysis::days_text(1'095), "1 day, 1,095 days");
  EXPECT_EQ(analysis::rounded_money_text(12'345'650, "EUR") + "; " + analysis::rounded_money_text(-50, ""),
            "1,234.57 EUR; -0.01");
}

}  // namespace
}  // namespace pear::test
