// The contents of the columns of a source.
#pragma once

#include <cstdint>
#include <map>
#include <string>
#include <vector>

#include <absl/container/flat_hash_map.h>

#include "base/error.hpp"
#include "intake/inspect/hint_words.hpp"
#include "intake/inspect/layout.hpp"
#include "intake/inspect/value_shape.hpp"
#include "sources/sample.hpp"

namespace pear::intake {

/// A date format, and what its values show about the order of day and month.
struct DateTally {
  std::uint64_t values = 0;
  std::map<std::string, std::uint64_t>
      languages;                                 ///< of the months' names: values that only this one may have
  std::uint64_t day_first = 0, month_first = 0;  ///< values that decide
  std::string example;
};

struct ColumnProfile {
  std::string header;
  std::uint64_t rows = 0, empty = 0, numbers = 0, dates = 0, texts = 0;
  std::uint64_t spaced = 0;           ///< values with white space at an end
  std::uint64_t dressed_numbers = 0;  ///< of the numbers, those with something around them: "$ 5", "12 pcs"
  std::uint64_t brackets = 0, trailing_minus = 0, percent = 0;
  std::map<std::string, std::uint64_t> words;      ///< currencies and units, numbers that have them
  std::map<std::string, std::uint64_t> thousands;  ///< blanks and apostrophes between thousands
  std::uint64_t compact_dates = 0;                 ///< of the numbers, those that may be 20240131
  std::uint64_t serials = 0;                       ///< and those that may count days since 1899-12-30
  std::uint64_t negative = 0, leading_zeros = 0;
  std::uint64_t with_point = 0, with_comma = 0, point_decimals = 0, comma_decimals = 0;
  std::map<std::string, DateTally> date_forms;
  std::vector<std::string> samples;  ///< the first three distinct values
  std::string smallest, largest;     ///< as numbers, as dates, or in natural order, by what most values are
  std::string example_of_text;       ///< a value that is neither number nor date
  std::string example_of_dressed;    ///< a number with signs around it
  /// Rows by the hash of the value; no more than kMostDistinct are distinguished.
  absl::flat_hash_map<std::uint64_t, std::uint32_t> values;
  std::map<Hint, HintedValues> hints;  ///< values with a word for something that needs a decision
  std::uint64_t case_variants = 0;     ///< distinct values that differ from another only in case

  static constexpr std::size_t kMostDistinct = 2'000'000;
  [[nodiscard]] std::uint64_t filled() const { return rows - empty; }
  [[nodiscard]] bool is_unique() const { return filled() > 0 && values.size() == filled(); }
};

struct SourceProfile {
  sources::TableAddress address;  ///< with the line of the header where it is not the first
  std::string why_header;         ///< why it is that line
  std::vector<OddRows> odd_rows;  ///< left out of everything below
  std::string name;
  std::uint64_t rows = 0, malformed = 0;
  std::uint64_t repeated_rows = 0;  ///< rows that are identical to an earlier one
  bool is_whole = true;
  std::optional<sources::Encoding> encoding;
  char delimiter = ',';
  std::vector<ColumnProfile> columns;
  std::vector<std::vector<std::string>> first_rows;  ///< cells by column

  static constexpr std::size_t kFirstRows = 2'000;
};

/// Reads the source, or samples of it (see open_sample). A source without any content has no columns. Errors:
/// those of the source.
[[nodiscard]] OrError<SourceProfile> profile_source(const sources::TableAddress& address);

/// "number", "date", "text", "mixed" or "empty".
[[nodiscard]] std::string type_name(const ColumnProfile& column);

/// Suspicious findings about the column, in words.
[[nodiscard]] std::vector<std::string> suspicions(const ColumnProfile& column, std::size_t position);

}  // namespace pear::intake
