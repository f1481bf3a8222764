#include "intake/inspect/layout.hpp"

#include <algorithm>
#include <set>

#include <fmt/format.h>

#include "base/ascii.hpp"
#include "base/text.hpp"
#include "expression/evaluate/functions.hpp"
#include "intake/inspect/value_shape.hpp"

namespace pear::intake {
namespace {

/// In lower case; a row begins with one of them.
constexpr std::string_view kTotalWords[] = {
    "grand total", "sub-total", "subtotal", "totals", "total",      "sum",      "zwischensumme",
    "gesamtsumme", "endsumme",  "summe",    "gesamt", "sous-total", "somme",    "subtotaal",
    "eindtotaal",  "totaal",    "som",      "totale", "subtotale",  "somma",    "total general",
    "suma",        "razem",     "ogółem",   "celkem", "součet",     "spolu",    "összesen",
    "végösszeg",   "summa",     "totalt",   "i alt",  "sammenlagt", "yhteensä", "σύνολο",
    "итого",       "всего",     "toplam"};

std::size_t filled_cells(const std::vector<std::string>& cells) {
  return static_cast<std::size_t>(
      std::count_if(cells.begin(), cells.end(), [](const std::string& cell) { return !cell.empty(); }));
}

/// The key with the most rows; the larger of two with as many.
std::size_t most_frequent(const std::map<std::size_t, std::uint64_t>& rows) {
  std::size_t best = 0;
  std::uint64_t most = 0;
  for (const auto& [filled, count] : rows) {
    if (count < most) continue;
    best = filled;
    most = count;
  }
  return best;
}

/// The word for a total that the text begins with, as it is written there; empty if it begins with none.
std::string total_word(const std::string& text) {
  if (text.empty() || is_digit(text.front())) return "";
  constexpr std::size_t kLongestTotal = 40;  // bytes, and more
  const std::string lower = expression::to_lower(std::string_view(text).substr(0, kLongestTotal));
  for (const std::string_view word : kTotalWords) {
    if (lower.front() != word.front() || !lower.starts_with(word)) continue;
    const bool ends = lower.size() == word.size() ||
                      std::string_view(" :.=").find(lower[word.size()]) != std::string_view::npos;
    if (ends) return text.substr(0, word.size());
  }
  return "";
}

/// The text as a pattern that fits only it.
std::string literal(std::string text) {
  for (char& c : text) {
    if (std::string_view("*?[]\\").find(c) != std::string_view::npos) c = '?';
  }
  return text;
}

/// Remarks contain dates and page numbers: the pattern ends before the first digit if words come before it.
std::string remark_pattern(const std::string& text) {
  constexpr std::size_t kFewest = 4, kLongest = 40;
  const std::size_t words = std::min(std::min(text.find_first_of("0123456789"), text.size()), kLongest);
  std::size_t end = words == text.size() ? words : text.substr(0, words).find_last_not_of(' ') + 1;
  while (end < text.size() && (static_cast<unsigned char>(text[end]) & 0xC0U) == 0x80U)
    --end;  // within a character
  return end < kFewest ? literal(text) : literal(text.substr(0, end)) + (end == text.size() ? "" : "*");
}

}  // namespace

HeaderPlace find_header(const std::vector<sources::PlainRow>& first_rows) {
  std::map<std::size_t, std::uint64_t> rows;
  for (const sources::PlainRow& row : first_rows) ++rows[filled_cells(row.cells)];
  rows.erase(1);
  const std::size_t needed = std::max<std::size_t>(2, (most_frequent(rows) * 6 + 9) / 10);
  for (std::size_t i = 0; i < first_rows.size(); ++i) {
    const auto& cells = first_rows[i].cells;
    const std::size_t filled = filled_cells(cells);
    if (filled < needed) continue;
    const auto names =
        static_cast<std::size_t>(std::count_if(cells.begin(), cells.end(), [](const std::string& cell) {
          return shape_of(cell).shape == Shape::text;
        }));
    if (i == 0 || names * 5 < filled * 4) return {};
    return {
        first_rows[i].number,
        fmt::format("{} before it, such as {}, {} fewer values than the table has columns", counted(i, "row"),
                    in_quotes(*std::find_if(first_rows[0].cells.begin(), first_rows[0].cells.end(),
                                            [](const std::string& cell) { return !cell.empty(); })),
                    i == 1 ? "has" : "have")};
  }
  return {};
}

OddRowWatcher::OddRowWatcher(const std::vector<std::string>& header) : header_(header) {
  const auto first =
      std::find_if(header.begin(), header.end(), [](const std::string& name) { return !name.empty(); });
  if (first != header.end()) first_header_ = *first;
}

void OddRowWatcher::see(const sources::CsvRows& rows, std::uint64_t first_line) {
  auto malformed = rows.malformed.begin();
  const auto see_malformed = [&](std::uint64_t before) {
    for (; malformed != rows.malformed.end() && malformed->line < before; ++malformed)
      see_row({first_line + malformed->line, malformed->first, 1}, false);
  };
  for (std::size_t row = 0; row < rows.size(); ++row) {
    see_malformed(rows.lines[row]);
    std::size_t filled = 0;
    bool repeats_header = rows.first_value(row) == first_header_;
    for (std::size_t column = 0; column < rows.columns; ++column) {
      const std::string_view field = rows.field(row, column);
      filled += field.empty() ? 0U : 1U;
      repeats_header = repeats_header && field == header_[column];
    }
    see_row({first_line + rows.lines[row], std::string(rows.first_value(row)), filled}, repeats_header);
  }
  see_malformed(UINT64_MAX);
}

void OddRowWatcher::see_row(Candidate row, bool repeats_header) {
  if (repeats_header) {
    ++repeated_headers_;
    return;
  }
  ++rows_by_filled_[row.filled];
  constexpr std::size_t kMostTotals = 100'000, kLast = 12;
  if (row.first != last_first_) {  // neighbouring rows often begin in the same way
    last_first_ = row.first;
    last_is_total_ = !total_word(row.first).empty();
  }
  if (last_is_total_ && totals_.size() < kMostTotals) totals_.push_back(row);
  if (last_.size() == kLast) last_.pop_front();
  last_.push_back(std::move(row));
}

std::size_t OddRowWatcher::usual_filled() const { return most_frequent(rows_by_filled_); }

std::vector<OddRows> OddRowWatcher::totals(std::size_t usual) const {
  std::map<std::string, std::uint64_t> of_word, of_text;
  std::set<std::string> ordinary;  // words with which ordinary rows begin, too
  for (const Candidate& row : totals_) {
    const std::string word = total_word(row.first);
    const bool is_total = row.filled * 4 <= usual * 3 || row.first.size() <= word.size() + 1;
    if (!is_total) {
      ordinary.insert(word);
      continue;
    }
    ++of_word[word];
    ++of_text[row.first];
  }
  std::vector<OddRows> found;
  const auto add = [&](std::string pattern, std::uint64_t rows) {
    found.push_back({std::move(pattern), rows,
                     rows == 1 ? "a total: columns are empty that are filled elsewhere"
                               : "totals: columns are empty that are filled elsewhere"});
  };
  for (const auto& [word, rows] : of_word)
    if (!ordinary.contains(word)) add(literal(word) + "*", rows);
  for (const auto& [text, rows] : of_text)
    if (ordinary.contains(total_word(text))) add(literal(text), rows);
  return found;
}

std::vector<OddRows> OddRowWatcher::remarks(std::size_t usual) const {
  std::vector<OddRows> found;
  constexpr std::size_t kMost = 10;  // more are not remarks
  for (auto row = last_.rbegin(); row != last_.rend() && found.size() <= kMost; ++row) {
    if (usual < 3 || row->filled * 2 > usual) break;
    if (!total_word(row->first).empty()) continue;
    found.push_back({remark_pattern(row->first), 1, "at the end of the file, with few values"});
  }
  if (found.size() > kMost) found.clear();
  std::reverse(found.begin(), found.end());
  return found;
}

std::vector<OddRows> OddRowWatcher::take() const {
  const std::size_t usual = usual_filled();
  std::vector<OddRows> found;
  if (repeated_headers_ > 0)
    found.push_back({literal(first_header_), repeated_headers_,
                     repeated_headers_ == 1 ? "repeats the header" : "repeat the header"});
  for (auto& each : totals(usual)) found.push_back(std::move(each));
  for (auto& each : remarks(usual)) {
    const auto same = std::find_if(found.begin(), found.end(),
                                   [&](const OddRows& other) { return other.pattern == each.pattern; });
    if (same == found.end())
      found.push_back(std::move(each));
    else
      ++same->rows;
  }
  return found;
}

}  // namespace pear::intake
