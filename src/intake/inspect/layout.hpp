// What surrounds the table in a file: titles above the header, totals and remarks below, repeated headers.
#pragma once

#include <cstdint>
#include <deque>
#include <map>
#include <string>
#include <string_view>
#include <vector>

#include "sources/csv_chunk.hpp"

namespace pear::intake {

/// The header of a file with lines above it.
struct HeaderPlace {
  std::uint64_t line = 0;  ///< from 1; 0 if the header is the first row, or cannot be recognised
  std::string why;
};

/// The header is the first row with most of the columns that the rows below have. It is reported if rows come
/// before it and its values are names, not numbers or dates.
[[nodiscard]] HeaderPlace find_header(const std::vector<sources::PlainRow>& first_rows);

/// Rows that are probably not rows of the table.
struct OddRows {
  std::string pattern;  ///< that their first value fits, see skip_rows()
  std::uint64_t rows = 0;
  std::string why;
};

/// Watches the rows of a table for such rows: repeated headers; totals, recognised by their first word in
/// many languages, and because columns are empty that are filled elsewhere; and remarks at the end.
class OddRowWatcher {
 public:
  explicit OddRowWatcher(const std::vector<std::string>& header);

  void see(const sources::CsvRows& rows, std::uint64_t first_line);
  [[nodiscard]] std::vector<OddRows> take() const;

 private:
  struct Candidate {
    std::uint64_t line = 0;
    std::string first;
    std::size_t filled = 0;
  };
  void see_row(Candidate row, bool repeats_header);
  [[nodiscard]] std::size_t usual_filled() const;
  [[nodiscard]] std::vector<OddRows> totals(std::size_t usual) const;
  [[nodiscard]] std::vector<OddRows> remarks(std::size_t usual) const;

  std::vector<std::string> header_;
  std::string first_header_;
  std::uint64_t repeated_headers_ = 0;
  std::map<std::size_t, std::uint64_t> rows_by_filled_;
  std::vector<Candidate> totals_;  // rows that begin with a word for a total
  std::deque<Candidate> last_;     // the last rows, in order
  std::string last_first_;
  bool last_is_total_ = false;
};

}  // namespace pear::intake
