#include "expression/aggregate/grouping.hpp"

#include <algorithm>
#include <utility>

#include <absl/container/flat_hash_map.h>
#include <absl/container/flat_hash_set.h>
#include <tbb/enumerable_thread_specific.h>
#include <tbb/parallel_for.h>

#include "base/date.hpp"
#include "base/text.hpp"
#include "daybook/walk_lines.hpp"
#include "expression/rows/distinct_values.hpp"

namespace pear::expression {
namespace {

/// Codes by size of number.
template <class Values, class T>
void code_numbers(const Values& values, T empty, GroupKey& key) {
  CodedValues<T> coded = *code_values<T>(daybook::array_of(values), empty);
  key.distinct = static_cast<std::uint32_t>(coded.distinct.size());
  key.codes = std::move(coded.codes);
  Values labels;
  daybook::array_of(labels) = std::move(coded.distinct);
  key.labels = std::move(labels);
}

/// The combination of codes that a line has, as one number.
class CombinedKey {
 public:
  explicit CombinedKey(const std::vector<GroupKey>& keys) : keys_(keys), factors_(keys.size()) {
    for (std::size_t i = keys.size(); i-- > 0;) {
      factors_[i] = combinations_;
      fits_ = fits_ &&
              !__builtin_mul_overflow(combinations_, std::uint64_t{keys[i].distinct} + 1, &combinations_);
    }
  }
  [[nodiscard]] bool fits() const { return fits_; }
  [[nodiscard]] std::uint64_t combinations() const { return combinations_; }
  [[nodiscard]] std::uint64_t of(const daybook::LinePlace& place) const {
    std::uint64_t combined = 0;
    for (std::size_t i = 0; i < keys_.size(); ++i)
      combined += factors_[i] * keys_[i].codes[place.member(keys_[i].level)];
    return combined;
  }
  [[nodiscard]] std::uint32_t code(std::uint64_t combined, std::size_t key) const {
    return static_cast<std::uint32_t>(combined / factors_[key] % (std::uint64_t{keys_[key].distinct} + 1));
  }

 private:
  const std::vector<GroupKey>& keys_;
  std::vector<std::uint64_t> factors_;
  std::uint64_t combinations_ = 1;
  bool fits_ = true;
};

/// Cells out of few combinations: a table of all of them.
std::vector<std::uint64_t> number_densely(const daybook::Daybook& daybook, const CombinedKey& key,
                                          Grouping& grouping) {
  using Seen = std::vector<std::uint8_t>;
  tbb::enumerable_thread_specific<Seen> seen([&] { return Seen(key.combinations()); });
  daybook::for_each_customer_run(daybook, [&](daybook::CustomerRun run) {
    Seen& own = seen.local();
    daybook::walk_lines(daybook, run, [&](const daybook::LinePlace& place) {
      const std::uint64_t combined = key.of(place);
      own[combined] = 1;
      grouping.cell_of_line[place.line] = static_cast<std::uint32_t>(combined);
    });
  });
  std::vector<std::uint32_t> cells(key.combinations());
  std::vector<std::uint64_t> found;
  for (std::uint64_t combined = 0; combined < key.combinations(); ++combined) {
    if (std::none_of(seen.begin(), seen.end(), [&](const Seen& own) { return own[combined] != 0; })) continue;
    cells[combined] = static_cast<std::uint32_t>(found.size());
    found.push_back(combined);
  }
  tbb::parallel_for(tbb::blocked_range<std::size_t>(0, grouping.cell_of_line.size(), 65'536),
                    [&](const auto& run) {
                      for (std::size_t line = run.begin(); line != run.end(); ++line)
                        grouping.cell_of_line[line] = cells[grouping.cell_of_line[line]];
                    });
  return found;
}

/// Cells out of a very large number of combinations, few of which occur.
std::vector<std::uint64_t> number_sparsely(const daybook::Daybook& daybook, const CombinedKey& key,
                                           Grouping& grouping) {
  tbb::enumerable_thread_specific<absl::flat_hash_set<std::uint64_t>> seen;
  daybook::for_each_customer_run(daybook, [&](daybook::CustomerRun run) {
    auto& own = seen.local();
    daybook::walk_lines(daybook, run, [&](const daybook::LinePlace& place) { own.insert(key.of(place)); });
  });
  absl::flat_hash_set<std::uint64_t> all;
  for (auto& own : seen) {
    all.insert(own.begin(), own.end());
    own = {};
  }
  std::vector<std::uint64_t> found(all.begin(), all.end());
  std::sort(found.begin(), found.end());
  absl::flat_hash_map<std::uint64_t, std::uint32_t> cells;
  cells.reserve(found.size());
  for (const std::uint64_t combined : found)
    cells.emplace(combined, static_cast<std::uint32_t>(cells.size()));
  daybook::for_each_customer_run(daybook, [&](daybook::CustomerRun run) {
    daybook::walk_lines(daybook, run, [&](const daybook::LinePlace& place) {
      grouping.cell_of_line[place.line] = cells.find(key.of(place))->second;
    });
  });
  return found;
}

Grouping group_by_few(const daybook::Daybook& daybook, const std::vector<GroupKey>& keys,
                      const CombinedKey& key) {
  constexpr std::uint64_t kMostInTable = 8'000'000;
  Grouping grouping;
  grouping.cell_of_line.resize(daybook.lines());
  const std::vector<std::uint64_t> found = key.combinations() <= kMostInTable
                                               ? number_densely(daybook, key, grouping)
                                               : number_sparsely(daybook, key, grouping);
  grouping.cells = static_cast<std::uint32_t>(found.size());
  grouping.codes.resize(keys.size());
  for (std::size_t i = 0; i < keys.size(); ++i) {
    for (const std::uint64_t combined : found) grouping.codes[i].push_back(key.code(combined, i));
  }
  return grouping;
}

/// Replaces the keys of a grouping by one key, its cells.
GroupKey key_of_cells(Grouping grouping) {
  GroupKey key;
  key.codes = std::move(grouping.cell_of_line);
  key.distinct = grouping.cells;
  return key;
}

}  // namespace

OrError<GroupKey> group_key(const Expression& expression, const LineView& lines) {
  PEAR_ASSIGN(const MemberColumn column, column_of(expression, lines));
  GroupKey key{snake_case(expression.text()), column.level, column.grain, column.type, {}, {}, 0, false};
  const daybook::ColumnValues& values = *column.values;
  if (const auto* text = std::get_if<daybook::TextValues>(&values)) {
    key.distinct = static_cast<std::uint32_t>(text->dictionary.size());
    key.labels = daybook::TextValues{{}, text->dictionary};
    key.codes = column.made ? std::move(std::get<daybook::TextValues>(*column.made).codes) : text->codes;
    tbb::parallel_for(tbb::blocked_range<std::size_t>(0, key.codes.size(), 65'536), [&](const auto& run) {
      for (std::size_t i = run.begin(); i != run.end(); ++i)
        key.codes[i] = std::min(key.codes[i], key.distinct);  // kEmptyCode is the largest
    });
  } else if (const auto* decimal = std::get_if<daybook::DecimalValues>(&values)) {
    code_numbers(*decimal, daybook::kEmptyUnits, key);
  } else if (const auto* date = std::get_if<daybook::DateValues>(&values)) {
    code_numbers(*date, daybook::kEmptyDays, key);
  } else {
    code_numbers(std::get<daybook::TimeValues>(values), std::int32_t{Moment::kNoTime}, key);
  }
  return key;
}

constexpr std::string_view kEmptyLabel = "(empty)";

std::string label_text(const GroupKey& key, std::uint32_t code) {
  if (code == key.distinct) return std::string(kEmptyLabel);
  if (const auto* text = std::get_if<daybook::TextValues>(&key.labels)) {
    const std::string_view label = text->dictionary[code];
    return label == kEmptyLabel ? in_quotes(label)
                                : std::string(label);  // a value that is spelled like no value
  }
  return daybook::value_text(key.labels, code);
}

Grouping group_lines(const daybook::Daybook& daybook, const std::vector<GroupKey>& keys) {
  const CombinedKey key(keys);
  if (key.fits()) return group_by_few(daybook, keys, key);
  // More combinations than 64 bits hold: the combinations of all keys but the last are numbered first.
  const std::vector<GroupKey> front(keys.begin(), keys.end() - 1);
  Grouping of_front = group_lines(daybook, front);
  const std::vector<std::vector<std::uint32_t>> front_codes = std::move(of_front.codes);
  const std::vector<GroupKey> two = {key_of_cells(std::move(of_front)), keys.back()};
  Grouping grouping = group_by_few(daybook, two, CombinedKey(two));
  std::vector<std::vector<std::uint32_t>> codes;
  for (const auto& of_key : front_codes) {
    codes.emplace_back();
    for (const std::uint32_t cell : grouping.codes[0]) codes.back().push_back(of_key[cell]);
  }
  codes.push_back(std::move(grouping.codes[1]));
  grouping.codes = std::move(codes);
  return grouping;
}

}  // namespace pear::expression
