#include "analysis/tables/item_labels.hpp"

#include <algorithm>
#include <utility>

#include <fmt/format.h>

#include "analysis/find_member.hpp"
#include "analysis/tables/member_column.hpp"
#include "base/text.hpp"

namespace pear::analysis {

bool ItemLabels::are_products() const { return key.source == daybook::role::kProductId; }

bool ItemLabels::are_named() const {
  const daybook::Column* names = daybook.find("product_name");  // of lines, if a product was renamed
  return are_products() && names != nullptr && names->level == daybook::Level::product;
}

std::string ItemLabels::column() const { return are_products() ? "product" : snake_case(item); }

std::string ItemLabels::title(std::uint32_t code) const { return label_with_name(daybook, key, code); }

std::string ItemLabels::name(std::uint32_t code) const {
  std::string id = expression::label_text(key, code), whole = title(code);
  return whole.size() > id.size() ? whole.substr(id.size() + 1) : id;
}

void ItemLabels::add_columns(const std::string& column_name, std::string description,
                             std::vector<std::uint32_t> codes,
                             std::vector<result::TableColumn>& columns) const {
  columns.push_back(key_column(column_name, std::move(description), key, codes));
  if (!are_named()) return;
  add_names(daybook, key, codes, columns);
  columns.back().name = column_name + "_name";
  columns.back().always_shown = true;
}

OrError<std::uint32_t> ItemLabels::find(const std::string& option, const std::string& text) const {
  if (are_products()) return find_one(daybook, daybook::Level::product, text);
  std::vector<std::string> labels;
  for (std::uint32_t code = 0; code < key.distinct; ++code)
    labels.push_back(expression::label_text(key, code));
  const auto found = std::find(labels.begin(), labels.end(), text);
  if (found == labels.end())
    return usage_error(
        fmt::format("--{}: no {} is {}.{}", option, item, in_quotes(text), did_you_mean(text, labels)));
  return static_cast<std::uint32_t>(found - labels.begin());
}

}  // namespace pear::analysis
