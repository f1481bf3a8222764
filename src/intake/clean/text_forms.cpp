#include "intake/clean/text_forms.hpp"

#include "intake/clean/recode.hpp"
#include "intake/plan/role.hpp"

namespace pear::intake {
namespace {

/// Post codes and article numbers ("007") are not numbers.
bool has_leading_zero(std::string_view text) {
  return text.size() > 1 && text[0] == '0' && text[1] >= '0' && text[1] <= '9';
}

}  // namespace

TextFormFinder::TextFormFinder(const SourcePlan& plan)
    : numbers_(plan.numbers),
      dates_(plan.dates),
      all_numbers_(!plan.numbers.is_plain()),
      all_dates_(!plan.dates.formats.empty()) {}

void TextFormFinder::see(std::string_view text) {
  any_ = true;
  if (all_numbers_) all_numbers_ = !has_leading_zero(text) && numbers_.read(text).has_value();
  if (!all_dates_) return;
  const auto moment = dates_.read(text);
  all_dates_ = moment && moment->second_of_day == Moment::kNoTime;
}

TextForm TextFormFinder::form() const {
  if (any_ && all_numbers_) return TextForm::numbers;
  return any_ && all_dates_ ? TextForm::dates : TextForm::texts;
}

bool has_text_form(const SourcePlan& plan, TableKind kind, std::string_view column) {
  return (!plan.numbers.is_plain() || !plan.dates.formats.empty()) && find_role(column, kind) == nullptr;
}

void convert_texts(const SourcePlan& plan, TextForm form, daybook::TextValues& values) {
  NumberReader numbers(plan.numbers);
  MomentReader dates(plan.dates);
  if (form == TextForm::numbers)
    rewrite_texts(values, [&](std::string_view text) { return numbers.read(text)->to_text(); });
  if (form == TextForm::dates)
    rewrite_texts(values, [&](std::string_view text) { return to_text(dates.read(text)->date); });
}

void unify_formats(const SourcePlan& plan, RawTable& table) {
  for (RawColumn& column : table.columns) {
    auto* values = std::get_if<daybook::TextValues>(&column.values);
    if (values == nullptr || !has_text_form(plan, table.kind, column.name)) continue;
    TextFormFinder finder(plan);
    for (std::size_t i = 0; i < values->dictionary.size(); ++i) finder.see(values->dictionary[i]);
    convert_texts(plan, finder.form(), *values);
  }
}

}  // namespace pear::intake
