#include "intake/inspect/guess_formats.hpp"

#include <algorithm>
#include <string>
#include <utility>

#include <fmt/format.h>

#include "base/text.hpp"
#include "intake/read/currency.hpp"

namespace pear::intake {
namespace {

class FormatGuesser {
 public:
  FormatGuesser(GuessedTable& table, const SourceProfile& source, std::vector<OpenQuestion>& questions)
      : table_(table), source_(source), questions_(questions) {}

  void run() {
    std::uint64_t points = 0, commas = 0, grouped_points = 0, grouped_commas = 0;
    for (std::size_t i = 0; i < table_.columns.size(); ++i) {
      const ColumnProfile& column = source_.columns[i];
      if (holds(column, ColumnKind::number) && column.leading_zeros == 0) {
        points += column.point_decimals;
        commas += column.comma_decimals;
        grouped_points += column.with_point - column.point_decimals;
        grouped_commas += column.with_comma - column.comma_decimals;
      }
      find_dressing(i);
      const RoleInfo* role =
          table_.columns[i].is_role ? find_role(table_.columns[i].name, table_.kind) : nullptr;
      const bool is_date = role != nullptr && role->kind == ColumnKind::moment;
      if (column.dates > 0 && holds(column, ColumnKind::moment)) find_date_format(table_.columns[i], column);
      if (is_date && column.compact_dates > 0) add_format("%Y%m%d");
      if (is_date && column.compact_dates == 0 && column.serials > 0) add_format(std::string(kSerial));
    }
    if (commas > points) {
      table_.numbers.decimal = ',';
      if (grouped_points + points > 0 && table_.numbers.thousands.empty()) table_.numbers.thousands = ".";
    } else if (grouped_commas > 0 && points > 0) {
      table_.numbers.thousands = ",";
    } else if (grouped_commas > 0 || (grouped_points > 0 && points == 0)) {
      const bool comma = grouped_commas > 0;
      questions_.push_back(
          {fmt::format("{}: in numbers such as {}, does the {} separate thousands or decimals?", source_.name,
                       in_quotes(grouped_example()), comma ? "comma" : "point"),
           std::string(to_text(table_.kind)),
           comma ? std::vector<std::string>{"thousands = \",\"   # 1,234 is 1234",
                                            "decimal = \",\"     # 1,234 is 1.234"}
                 : std::vector<std::string>{"decimal = \".\"     # 1.234 is 1.234",
                                            "decimal = \",\"     # and thousands = \".\": 1.234 is 1234"},
           table_.sources.empty() ? 0 : table_.sources.front()});
    }
  }

 private:
  /// Currencies and units, brackets and signs around the numbers of a role, or currencies in any column of
  /// numbers.
  void find_dressing(std::size_t position) {
    const ColumnProfile& column = source_.columns[position];
    const GuessedColumn& guessed = table_.columns[position];
    const RoleInfo* role = guessed.is_role ? find_role(guessed.name, table_.kind) : nullptr;
    const bool is_number = role != nullptr && role->kind == ColumnKind::number;
    const bool only_currencies = std::all_of(column.words.begin(), column.words.end(), [](const auto& word) {
      return !currency_of(word.first).empty();
    });
    if (column.dressed_numbers == 0 || !holds(column, ColumnKind::number) ||
        (!is_number && !only_currencies) || (role != nullptr && !is_number))
      return;
    NumberFormat& numbers = table_.numbers;
    for (const auto& [word, values] : column.words)
      if (std::find(numbers.strip.begin(), numbers.strip.end(), word) == numbers.strip.end())
        numbers.strip.push_back(word);
    numbers.brackets |= column.brackets > 0;
    numbers.trailing_minus |= column.trailing_minus > 0;
    numbers.percent |= column.percent > 0;
    if (!column.thousands.empty()) numbers.thousands = column.thousands.begin()->first;
  }

  std::string grouped_example() const {
    for (const ColumnProfile& column : source_.columns) {
      const bool grouped =
          column.with_comma > column.comma_decimals || column.with_point > column.point_decimals;
      if (!grouped || !holds(column, ColumnKind::number)) continue;
      for (const std::string& sample : column.samples) {
        if (sample.find_first_of(",.") != std::string::npos) return sample;
      }
      return column.largest;
    }
    return "1,234";
  }

  void find_date_format(const GuessedColumn& guessed, const ColumnProfile& column) {
    for (const auto& [form, tally] : column.date_forms) {
      if (form.starts_with("yyyy-mm-dd")) {
        if (column.date_forms.size() > 1) add_format(format_of(form, true));
      } else if (form.find("Mon") != std::string::npos) {
        add_format(format_of(form, true));
        const auto most = std::max_element(tally.languages.begin(), tally.languages.end(),
                                           [](const auto& a, const auto& b) { return a.second < b.second; });
        if (most != tally.languages.end()) table_.dates.language = most->first;
      } else if (form.find('?') == std::string::npos || tally.day_first > 0 || tally.month_first > 0) {
        if (tally.day_first > 0 && tally.month_first > 0) {
          add_format(format_of(form, tally.day_first >= tally.month_first));
        } else {
          add_format(format_of(form, tally.day_first > 0));
        }
      } else if (form.find('.') != std::string::npos) {
        add_format(format_of(form, true));  // with points the day always comes first
      } else {
        ask_order(guessed, form, tally);
      }
    }
  }

  void ask_order(const GuessedColumn& guessed, const std::string& form, const DateTally& tally) {
    const auto answer = [&](bool day_first) {
      return fmt::format("date_format = \"{}\"   # {} is in {}", format_of(form, day_first), tally.example,
                         day_first ? "day, month order" : "month, day order");
    };
    questions_.push_back(
        {fmt::format("{}: does a date such as {} in {} begin with the day or the month? All dates fit both.",
                     source_.name, in_quotes(tally.example), in_quotes(guessed.header)),
         std::string(to_text(table_.kind)),
         {answer(true), answer(false)},
         table_.sources.empty() ? 0 : table_.sources.front()});
  }

  void add_format(std::string format) {
    auto& formats = table_.dates.formats;
    if (std::find(formats.begin(), formats.end(), format) == formats.end())
      formats.push_back(std::move(format));
  }

  GuessedTable& table_;
  const SourceProfile& source_;
  std::vector<OpenQuestion>& questions_;
};

}  // namespace

bool holds(const ColumnProfile& column, ColumnKind kind) {
  const std::uint64_t filled = column.filled();
  if (kind == ColumnKind::text) return filled > 0;
  const auto is_most = [&](std::uint64_t values) { return values * 10 > filled * 9; };
  if (kind == ColumnKind::number) return is_most(column.numbers);
  return is_most(column.dates) || is_most(column.compact_dates + column.dates) ||
         is_most(column.serials + column.dates);
}

void guess_formats(GuessedTable& table, const SourceProfile& source, std::vector<OpenQuestion>& questions) {
  FormatGuesser(table, source, questions).run();
}

}  // namespace pear::intake
