#include "analysis/tables/member_labels.hpp"

#include <algorithm>
#include <numeric>
#include <utility>

#include <fmt/format.h>

#include "analysis/options/expression_option.hpp"
#include "analysis/tables/member_column.hpp"
#include "base/text.hpp"
#include "expression/expression.hpp"

namespace pear::analysis {
namespace {

constexpr std::array kLevels = {daybook::Level::customer, daybook::Level::product};

result::TableColumn by_member(const std::string& name, const std::string& word,
                              const daybook::ColumnValues& values, std::uint32_t count) {
  std::vector<std::uint32_t> all(count);
  std::iota(all.begin(), all.end(), 0U);
  return member_column(name, fmt::format("{} of the {}.", name, word), values, all);
}

/// The values of a column by member, in the rows of another table; empty for kNoMember.
result::TableColumn in_rows(const result::TableColumn& by_member,
                            const result::LazyColumn<std::uint32_t>& members) {
  result::TableColumn column = by_member;
  const auto source = std::make_shared<const result::TableColumn>(by_member);
  const auto lazily = [&](auto empty, auto read) {
    using T = decltype(empty);
    return result::computed_from<T>(members, [source, empty, read](std::uint32_t member) -> T {
      return member == daybook::kNoMember ? empty : read(*source, member);
    });
  };
  if (by_member.unit == result::Unit::text)
    column.values = lazily(std::string_view(), [](const result::TableColumn& of, std::uint32_t member) {
      return of.text(member);
    });
  else
    column.values = lazily(result::kEmptyCell, [](const result::TableColumn& of, std::uint32_t member) {
      return of.integer(member);
    });
  return column;
}

/// "customer_name" next to customer_id; "product_a_name" and "product_a_category" next to product_a.
std::string name_next_to(const std::string& ids, const std::string& word, const std::string& label) {
  if (ids == word + "_id") return label;
  const bool has_word = label.starts_with(word + "_");
  return fmt::format("{}_{}", ids, has_word ? label.substr(word.size() + 1) : label);
}

}  // namespace

OrError<MemberLabels> MemberLabels::prepare(const std::string& option,
                                            const std::vector<expression::Tree>& with,
                                            const expression::LineView& lines) {
  const daybook::Daybook& daybook = lines.daybook();
  MemberLabels labels;
  for (std::size_t i = 0; i < kLevels.size(); ++i) {
    Member& member = labels.members_.at(i);
    member.word = daybook::to_text(kLevels.at(i));
    const std::string name = member.word + "_name";
    const daybook::Column* names = daybook.find(name);
    if (names != nullptr && names->level == kLevels.at(i))
      member.labels.push_back(
          {by_member(name, member.word, names->values, daybook.members(kLevels.at(i))), true});
    if (names != nullptr || !with.empty())
      member.ids = std::make_shared<const TextArray>(i == 0 ? daybook.parts().customer_ids
                                                            : daybook.parts().product_ids);
  }
  for (const expression::Tree& tree : with) {
    const auto expression = expression::Expression::compile(tree.root, tree.text, lines.schema());
    if (!expression) return in_option(option, expression.error());
    const bool of_product = expression->grain() == expression::grain::kProduct;
    if (!of_product && !expression::within(expression->grain(), expression::grain::kCustomer))
      return usage_error(fmt::format("--{}: {} is not one value for each customer, nor one for each product.",
                                     option, in_quotes(tree.text)));
    Member& member = labels.members_.at(of_product ? 1 : 0);
    const daybook::Level level = kLevels.at(of_product ? 1 : 0);
    PEAR_ASSIGN(const daybook::ColumnValues values, values_by_member(option, tree, level, lines));
    if (!member.labels.empty() && member.labels.front().is_name &&
        member.labels.front().by_member.name == tree.name)
      member.labels.erase(member.labels.begin());
    member.labels.push_back({by_member(tree.name, member.word, values, daybook.members(level)), false});
  }
  return labels;
}

result::LazyColumn<std::uint32_t> MemberLabels::members_of(const result::TableColumn& ids,
                                                           const Member& member) {
  if (member.places == nullptr) {
    auto places = std::make_shared<Places>();
    places->reserve(member.ids->size());
    for (std::uint32_t i = 0; i < member.ids->size(); ++i) places->emplace((*member.ids)[i], i);
    member.places = std::move(places);
  }
  const auto member_of = [places = member.places, kept = member.ids](std::string_view id) {
    const auto found = places->find(id);
    return found == places->end() ? daybook::kNoMember : found->second;
  };
  if (const auto* coded = std::get_if<result::CodedTexts>(&ids.values)) {
    std::vector<std::uint32_t> by_code(coded->texts->size());
    for (std::size_t code = 0; code < by_code.size(); ++code)
      by_code[code] = member_of((*coded->texts)[code]);
    return result::computed<std::uint32_t>(
        ids.size(), [codes = coded->codes, by_code = std::move(by_code)](std::size_t row) {
          return codes[row] < by_code.size() ? by_code[codes[row]] : daybook::kNoMember;
        });
  }
  const auto texts = std::make_shared<const result::TableColumn>(ids);
  return result::computed<std::uint32_t>(
      ids.size(), [texts, member_of](std::size_t row) { return member_of(texts->text(row)); });
}

bool MemberLabels::add_to(result::Table& table) const {
  bool added = false;
  for (std::size_t i = 0; i < table.columns.size(); ++i) {
    const result::TableColumn ids = table.columns[i];
    if (ids.id_of == result::IdOf::none) continue;
    const Member& member = members_.at(ids.id_of == result::IdOf::customer ? 0 : 1);
    if (member.labels.empty()) continue;
    const auto members = members_of(ids, member);
    const std::string name_here = name_next_to(ids.name, member.word, member.word + "_name");
    const bool is_named =
        i + 1 < table.columns.size() &&
        (table.columns[i + 1].name == name_here || table.columns[i + 1].name == member.word + "_name");
    if (is_named) ++i;
    for (const Label& label : member.labels) {
      if (label.is_name && is_named) continue;
      result::TableColumn column = in_rows(label.by_member, members);
      column.name = name_next_to(ids.name, member.word, label.by_member.name);
      column.always_shown = ids.always_shown;
      column.is_asked = !label.is_name;
      added = added || !label.is_name;
      table.columns.insert(table.columns.begin() + static_cast<std::ptrdiff_t>(++i), std::move(column));
    }
  }
  return added;
}

}  // namespace pear::analysis
