#include "intake/inspect/profile.hpp"

#include <algorithm>
#include <cctype>
#include <utility>

#include <absl/container/flat_hash_set.h>
#include <fmt/format.h>
#include <tbb/parallel_for.h>
#include <xxhash.h>

#include "base/natural_order.hpp"
#include "base/text.hpp"
#include "expression/evaluate/functions.hpp"
#include "intake/read/skip_rows.hpp"
#include "sources/first_rows.hpp"

namespace pear::intake {
namespace {

std::uint64_t hash_of(std::string_view text) { return XXH3_64bits(text.data(), text.size()); }

/// The smallest and largest of values that are compared in one way.
template <class Key>
class Range {
 public:
  void see(const Key& key, std::string_view text) {
    if (smallest_.empty() || key < least_) {
      least_ = key;
      smallest_ = text;
    }
    if (largest_.empty() || most_ < key) {
      most_ = key;
      largest_ = text;
    }
  }
  void put_into(ColumnProfile& profile) const {
    profile.smallest = smallest_;
    profile.largest = largest_;
  }

 private:
  Key least_{}, most_{};
  std::string smallest_, largest_;
};

struct NaturalKey {
  std::string text;
  bool operator<(const NaturalKey& other) const { return natural_compare(text, other.text) < 0; }
};

/// A column while it is read: each distinct value is examined once, and counted as often as it occurs.
class ColumnWatcher {
 public:
  explicit ColumnWatcher(std::string header) { profile_.header = std::move(header); }

  void see(std::string_view text, bool is_typed) {
    ++profile_.rows;
    if (text.empty()) {
      ++profile_.empty;
      return;
    }
    if (text != last_text_ || is_typed != last_typed_) look_at(text, is_typed);
    count();
  }

  ColumnProfile take() {
    for (const auto& [folded, spellings] : spellings_)
      profile_.case_variants += spellings > 1 ? spellings : 0;
    put_range();
    return std::move(profile_);
  }

 private:
  void look_at(std::string_view text, bool is_typed) {
    last_text_ = text;
    last_typed_ = is_typed;
    const std::string_view plain = expression::trimmed(text);
    last_spaced_ = plain.size() != text.size();
    last_ = shape_of(plain);
    const std::uint64_t hash = hash_of(text);
    last_slot_ = nullptr;
    const bool room = profile_.values.size() < ColumnProfile::kMostDistinct;
    const auto found = profile_.values.find(hash);
    if (found != profile_.values.end()) {
      last_slot_ = &found->second;
    } else if (room) {
      last_slot_ = &profile_.values.emplace(hash, 0).first->second;
      see_new(text);
    }
  }

  void see_new(std::string_view text) {
    constexpr std::size_t kSamples = 3;
    if (profile_.samples.size() < kSamples) profile_.samples.emplace_back(text);
    if (last_.shape == Shape::number) numbers_.see(last_.number.value, text);
    if (last_.shape == Shape::date) {
      days_first_.see(last_.date.day_first, text);
      months_first_.see(last_.date.month_first, text);
    }
    texts_.see({std::string(text)}, text);
    if (last_.is_dressed && profile_.example_of_dressed.empty()) profile_.example_of_dressed = text;
    if (last_.shape != Shape::text) return;
    if (profile_.example_of_text.empty()) profile_.example_of_text = text;
    if (const auto hint = hint_in(text)) profile_.hints[*hint].add(text);
    constexpr std::size_t kMostSpellings = 200'000;
    if (spellings_.size() < kMostSpellings)
      ++spellings_[hash_of(expression::to_lower(expression::trimmed(text)))];
  }

  void put_range() {
    std::uint64_t day_first = 0, month_first = 0;
    for (const auto& [form, tally] : profile_.date_forms) {
      day_first += tally.day_first;
      month_first += tally.month_first;
    }
    if (profile_.numbers * 2 > profile_.filled()) {
      numbers_.put_into(profile_);
    } else if (profile_.dates * 2 > profile_.filled()) {
      month_first > day_first ? months_first_.put_into(profile_) : days_first_.put_into(profile_);
    } else {
      texts_.put_into(profile_);
    }
  }

  void count() {
    if (last_slot_ != nullptr) ++*last_slot_;
    profile_.spaced += last_spaced_ ? 1U : 0U;
    if (last_.shape == Shape::number) {
      ++profile_.numbers;
      const NumberShape& number = last_.number;
      profile_.negative += number.negative ? 1U : 0U;
      profile_.leading_zeros += number.leading_zero ? 1U : 0U;
      count_dates_among_numbers();
      if (last_.is_dressed) count_dressing();
      if (last_typed_) return;  // the cell's number, however it is shown
      profile_.with_point += number.has_point ? 1U : 0U;
      profile_.with_comma += number.has_comma ? 1U : 0U;
      profile_.point_decimals += number.point_is_decimal ? 1U : 0U;
      profile_.comma_decimals += number.comma_is_decimal ? 1U : 0U;
    } else if (last_.shape == Shape::date) {
      ++profile_.dates;
      DateTally& tally = profile_.date_forms[last_.date.form];
      if (tally.values++ == 0) tally.example = last_text_;
      if (last_.date.language != "en") ++tally.languages[last_.date.language];
      tally.day_first += last_.date.first_is_day ? 1U : 0U;
      tally.month_first += last_.date.second_is_day ? 1U : 0U;
    } else {
      ++profile_.texts;
    }
  }

  void count_dressing() {
    const Dressing& dressing = last_.dressing;
    ++profile_.dressed_numbers;
    profile_.brackets += dressing.brackets ? 1U : 0U;
    profile_.trailing_minus += dressing.trailing_minus ? 1U : 0U;
    profile_.percent += dressing.percent ? 1U : 0U;
    if (!dressing.thousands.empty()) ++profile_.thousands[dressing.thousands];
    constexpr std::size_t kMostWords = 100;
    for (const std::string& word : dressing.words)
      if (profile_.words.size() < kMostWords) ++profile_.words[word];
  }

  void count_dates_among_numbers() {
    constexpr double kFirst = 20'000, kLast = 80'000;  // the years 1954 to 2119
    if (last_.is_dressed) return;
    profile_.compact_dates += is_compact_date(last_text_) ? 1U : 0U;
    profile_.serials += last_.number.value > kFirst && last_.number.value < kLast ? 1U : 0U;
  }

  ColumnProfile profile_;
  std::string last_text_;
  ValueShape last_;
  bool last_spaced_ = false;
  bool last_typed_ = false;
  std::uint32_t* last_slot_ = nullptr;
  Range<double> numbers_;
  Range<int> days_first_, months_first_;
  Range<NaturalKey> texts_;
  absl::flat_hash_map<std::uint64_t, std::uint32_t> spellings_;
};

/// Counts rows that are the same as an earlier one, among the first five million.
class Repetitions {
 public:
  std::uint64_t count(const sources::CsvRows& rows) {
    std::uint64_t repeated = 0;
    for (std::size_t row = 0; row < rows.size() && seen_.size() < kMost; ++row) {
      std::uint64_t hash = 0;
      for (std::size_t column = 0; column < rows.columns; ++column) {
        const std::string_view field = rows.field(row, column);
        hash = XXH3_64bits_withSeed(field.data(), field.size(), hash + 1);
      }
      repeated += seen_.insert(hash).second ? 0U : 1U;
    }
    return repeated;
  }

 private:
  static constexpr std::size_t kMost = 5'000'000;
  absl::flat_hash_set<std::uint64_t> seen_;
};

/// Reads the source into the profile, without the rows that fit a pattern. Returns the odd rows that it has
/// seen.
OrError<std::vector<OddRows>> read_columns(SourceProfile& profile, const std::vector<std::string>& skipped) {
  PEAR_ASSIGN(sources::Sample sample, sources::open_sample(profile.address));
  profile.is_whole = sample.is_whole;
  profile.name = sample.reader.name();
  profile.encoding = sample.reader.encoding();
  profile.delimiter = sample.reader.delimiter();
  profile.columns.clear();
  profile.first_rows.clear();
  profile.rows = profile.malformed = profile.repeated_rows = 0;
  if (sample.reader.header().empty()) return std::vector<OddRows>{};
  OddRowWatcher odd_rows(sample.reader.header());
  std::vector<ColumnWatcher> watchers;
  Repetitions repetitions;
  for (const std::string& header : sample.reader.header()) watchers.emplace_back(header);
  PEAR_TRY(sample.reader.for_each_part(
      [&](sources::CsvRows rows) {
        skip_rows(rows, skipped);
        return rows;
      },
      [&](const sources::CsvRows& rows, std::uint64_t first_line) {
        for (std::size_t row = 0; row < rows.size() && profile.first_rows.size() < SourceProfile::kFirstRows;
             ++row) {
          std::vector<std::string> cells;
          for (std::size_t column = 0; column < rows.columns; ++column)
            cells.emplace_back(rows.field(row, column));
          profile.first_rows.push_back(std::move(cells));
        }
        profile.rows += rows.size();
        profile.repeated_rows += repetitions.count(rows);
        profile.malformed += rows.malformed.size();
        odd_rows.see(rows, first_line);
        tbb::parallel_for(std::size_t{0}, watchers.size(), [&](std::size_t column) {
          for (std::size_t row = 0; row < rows.size(); ++row)
            watchers[column].see(rows.field(row, column), rows.is_typed(row, column));
        });
      }));
  for (ColumnWatcher& watcher : watchers) profile.columns.push_back(watcher.take());
  return odd_rows.take();
}

}  // namespace

OrError<SourceProfile> profile_source(const sources::TableAddress& address) {
  SourceProfile profile;
  profile.address = address;
  if (address.header_line == 0) {
    constexpr std::size_t kRows = 60;
    PEAR_ASSIGN(const auto rows, sources::first_rows(address, kRows));
    HeaderPlace header = find_header(rows);
    profile.address.header_line = header.line;
    profile.why_header = std::move(header.why);
  }
  PEAR_ASSIGN(profile.odd_rows, read_columns(profile, {}));
  if (profile.odd_rows.empty()) return profile;
  // Once more, without these rows; unless the patterns fit others, too.
  SourceProfile without = profile;
  std::uint64_t odd = 0;
  std::vector<std::string> patterns;
  for (const OddRows& each : profile.odd_rows) {
    patterns.push_back(each.pattern);
    odd += each.rows;
  }
  PEAR_ASSIGN([[maybe_unused]] const auto none, read_columns(without, patterns));
  const auto all_rows = [](const SourceProfile& of) { return of.rows + of.malformed; };
  if (all_rows(profile) - all_rows(without) == odd) return without;
  profile.odd_rows.clear();
  return profile;
}

std::string type_name(const ColumnProfile& column) {
  const std::uint64_t filled = column.filled();
  if (filled == 0) return "empty";
  if (column.numbers == filled) return column.leading_zeros > 0 ? "text" : "number";
  if (column.dates == filled) return "date";
  constexpr std::uint64_t kMostOfThem =
      2;  // if half of the values are of one kind, the others are exceptions
  const bool mixed = (column.numbers * kMostOfThem > filled || column.dates * kMostOfThem > filled) &&
                     column.leading_zeros == 0;
  return mixed ? "mixed" : "text";
}

std::vector<std::string> suspicions(const ColumnProfile& column, std::size_t position) {
  std::vector<std::string> found;
  const auto add = [&](std::uint64_t count, std::string_view text) {
    if (count > 0) found.push_back(fmt::format("{} {}", counted(count, "value"), text));
  };
  if (column.header.empty())
    found.push_back(fmt::format("no name in the header; called column_{}", position + 1));
  if (type_name(column) == "mixed")
    found.push_back(fmt::format("mixed: {} numbers, {} dates, {} texts such as {}",
                                with_thousands(static_cast<std::int64_t>(column.numbers)),
                                with_thousands(static_cast<std::int64_t>(column.dates)),
                                with_thousands(static_cast<std::int64_t>(column.texts)),
                                in_quotes(column.example_of_text)));
  if (column.date_forms.size() > 1) {
    std::vector<std::string> examples;
    for (const auto& [form, tally] : column.date_forms) examples.push_back(in_quotes(tally.example));
    found.push_back("dates are written in several ways: " + join(examples, ", "));
  }
  if (column.dressed_numbers > 0 && column.numbers * 2 > column.filled())
    found.push_back(fmt::format("{} other characters in them, such as {}",
                                counted(column.dressed_numbers, "number has", "numbers have"),
                                in_quotes(column.example_of_dressed)));
  add(column.spaced, "with spaces at an end");
  add(column.case_variants, "that differ from another only in upper and lower case");
  add(column.leading_zeros, "with leading zeros: kept as text");
  add(column.negative, "below zero");
  if (column.comma_decimals > 0 && column.point_decimals > 0)
    found.emplace_back("decimal commas and decimal points");
  return found;
}

}  // namespace pear::intake
