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

/// Whether a text is a number but for a few signs or letters around it.
bool is_dressed_number(std::string_view text) {
  constexpr std::size_t kMostDressing = 5;  // bytes on either side: a currency, a unit, a space
  const auto first = text.find_first_of("0123456789");
  const auto last = text.find_last_of("0123456789");
  if (first == std::string_view::npos || first > kMostDressing || text.size() - 1 - last > kMostDressing)
    return false;
  const bool apart = first > 0 && last + 1 == text.size() && text[first - 1] != ' ' &&
                     static_cast<unsigned char>(text[first - 1]) < 0x80 && std::isalpha(text[first - 1]) != 0;
  return !apart && shape_of(text.substr(first, last + 1 - first)).shape == Shape::number;  // "A17" is an id
}

/// A column while it is read: each distinct value is examined once, and counted as often as it occurs.
class ColumnWatcher {
 public:
  explicit ColumnWatcher(std::string header) { profile_.header = std::move(header); }

  void see(std::string_view text) {
    ++profile_.rows;
    if (text.empty()) {
      ++profile_.empty;
      return;
    }
    if (text != last_text_) look_at(text);
    count();
  }

  ColumnProfile take() {
    for (const auto& [folded, spellings] : spellings_)
      profile_.case_variants += spellings > 1 ? spellings : 0;
    put_range();
    return std::move(profile_);
  }

 private:
  void look_at(std::string_view text) {
    last_text_ = text;
    const std::string_view plain = expression::trimmed(text);
    last_spaced_ = plain.size() != text.size();
    last_dressed_ = false;
    last_ = shape_of(plain);
    if (last_.shape == Shape::text) last_dressed_ = is_dressed_number(plain);
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
    if (last_.shape != Shape::text) return;
    if (profile_.example_of_text.empty()) profile_.example_of_text = text;
    if (last_dressed_ && profile_.example_of_dressed.empty()) profile_.example_of_dressed = text;
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
      profile_.with_point += number.has_point ? 1U : 0U;
      profile_.with_comma += number.has_comma ? 1U : 0U;
      profile_.point_decimals += number.point_is_decimal ? 1U : 0U;
      profile_.comma_decimals += number.comma_is_decimal ? 1U : 0U;
    } else if (last_.shape == Shape::date) {
      ++profile_.dates;
      DateTally& tally = profile_.date_forms[last_.date.form];
      if (tally.values++ == 0) tally.example = last_text_;
      tally.day_first += last_.date.first_is_day ? 1U : 0U;
      tally.month_first += last_.date.second_is_day ? 1U : 0U;
    } else {
      ++profile_.texts;
      profile_.dressed_numbers += last_dressed_ ? 1U : 0U;
    }
  }

  ColumnProfile profile_;
  std::string last_text_;
  ValueShape last_;
  bool last_spaced_ = false;
  bool last_dressed_ = false;
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

}  // namespace

OrError<SourceProfile> profile_source(const sources::TableAddress& address) {
  PEAR_ASSIGN(sources::Sample sample, sources::open_sample(address));
  SourceProfile profile;
  profile.address = address;
  profile.is_whole = sample.is_whole;
  std::vector<ColumnWatcher> watchers;
  Repetitions repetitions;
  for (const std::string& header : sample.reader.header()) watchers.emplace_back(header);
  PEAR_TRY(sample.reader.for_each_part([](sources::CsvRows rows) { return rows; },
                                       [&](const sources::CsvRows& rows, std::uint64_t /*first_line*/) {
                                         profile.rows += rows.size();
                                         profile.repeated_rows += repetitions.count(rows);
                                         profile.malformed += rows.malformed.size();
                                         tbb::parallel_for(
                                             std::size_t{0}, watchers.size(), [&](std::size_t column) {
                                               for (std::size_t row = 0; row < rows.size(); ++row)
                                                 watchers[column].see(rows.field(row, column));
                                             });
                                       }));
  profile.name = sample.reader.name();
  profile.encoding = sample.reader.encoding();
  profile.delimiter = sample.reader.delimiter();
  for (ColumnWatcher& watcher : watchers) profile.columns.push_back(watcher.take());
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
  if (column.dressed_numbers > 0 && (column.dressed_numbers + column.numbers) * 2 > column.filled())
    found.push_back(fmt::format("{} kept as text because of other characters in them, such as {}",
                                counted(column.dressed_numbers, "number"),
                                in_quotes(column.example_of_dressed)));
  add(column.spaced, "with spaces at an end");
  add(column.case_variants, "that differ from another only in upper and lower case");
  add(column.leading_zeros, "with leading zeros: kept as text");
  add(column.negative, "below zero");
  if (column.comma_decimals > 0 && column.point_decimals > 0)
    found.emplace_back("decimal commas and decimal points");
  else if (column.comma_decimals > 0)
    found.emplace_back("numbers with a decimal comma: text, unless decimal = \",\" is set");
  return found;
}

}  // namespace pear::intake
