#include "intake/inspect/joined_profile.hpp"

#include <algorithm>

namespace pear::intake {
namespace {

template <class Key>
void add_counts(std::map<Key, std::uint64_t>& into, const std::map<Key, std::uint64_t>& other) {
  for (const auto& [key, count] : other) into[key] += count;
}

void add_counts(ColumnProfile& into, const ColumnProfile& other) {
  for (const auto member :
       {&ColumnProfile::rows, &ColumnProfile::empty, &ColumnProfile::numbers, &ColumnProfile::dates,
        &ColumnProfile::texts, &ColumnProfile::spaced, &ColumnProfile::dressed_numbers,
        &ColumnProfile::brackets, &ColumnProfile::trailing_minus, &ColumnProfile::percent,
        &ColumnProfile::compact_dates, &ColumnProfile::serials, &ColumnProfile::negative,
        &ColumnProfile::leading_zeros, &ColumnProfile::with_point, &ColumnProfile::with_comma,
        &ColumnProfile::point_decimals, &ColumnProfile::comma_decimals, &ColumnProfile::case_variants})
    into.*member += other.*member;
  add_counts(into.words, other.words);
  add_counts(into.thousands, other.thousands);
  for (const auto& [form, tally] : other.date_forms) {
    DateTally& sum = into.date_forms[form];
    if (sum.values == 0) sum.example = tally.example;
    sum.values += tally.values;
    sum.day_first += tally.day_first;
    sum.month_first += tally.month_first;
    add_counts(sum.languages, tally.languages);
  }
  for (const auto& [hash, rows] : other.values) into.values[hash] += rows;
  for (const auto& [hint, hinted] : other.hints)
    for (const std::string& value : hinted.values) {
      auto& known = into.hints[hint];
      if (std::find(known.values.begin(), known.values.end(), value) == known.values.end()) known.add(value);
    }
}

}  // namespace

SourceProfile joined_profile(const std::vector<const SourceProfile*>& sources) {
  SourceProfile joined = *sources.front();
  for (std::size_t i = 1; i < sources.size(); ++i) {
    joined.rows += sources[i]->rows;
    for (std::size_t column = 0; column < joined.columns.size(); ++column)
      add_counts(joined.columns[column], sources[i]->columns[column]);
  }
  return joined;
}

}  // namespace pear::intake
