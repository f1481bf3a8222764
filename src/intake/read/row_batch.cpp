#include "intake/read/row_batch.hpp"

#include <algorithm>
#include <limits>
#include <optional>
#include <utility>

#include <unicode/utf8.h>

#include "expression/evaluate/functions.hpp"
#include "intake/read/batch_dictionary.hpp"
#include "intake/read/currency.hpp"
#include "intake/read/moment_reader.hpp"
#include "intake/read/number_reader.hpp"
#include "intake/read/skip_rows.hpp"

namespace pear::intake {
namespace {

bool is_utf8(std::string_view text) {
  const auto* bytes = reinterpret_cast<const std::uint8_t*>(text.data());
  const auto size = static_cast<std::int32_t>(text.size());
  for (std::int32_t at = 0; at < size;) {
    UChar32 character = 0;
    U8_NEXT(bytes, at, size, character);
    if (character < 0) return false;
  }
  return true;
}

/// Works column by column, so that a column's data stays in the processor's cache: first it cleans all cells
/// and reads the numbers and moments; then it assigns codes to the texts of the rows without errors.
class BatchReader {
 public:
  BatchReader(RowBatch& batch, const TableColumns& plan, char delimiter)
      : batch_(batch), plan_(plan), rows_(*batch.rows), delimiter_(delimiter) {}

  void read() {
    const std::size_t count = rows_.size();
    faulty_column_.assign(count, kNoColumn);
    batch_.columns.resize(plan_.columns.size());
    cells_.resize(plan_.columns.size());
    for (std::size_t i = 0; i < plan_.columns.size(); ++i) read_column(i);
    if (plan_.table == TableKind::lines) read_amounts();
    choose_rows();
    for (std::size_t i = 0; i < plan_.columns.size(); ++i) keep_column(i);
    if (any_fault_) compact(batch_.amounts);
    reject_rows();
  }

 private:
  static constexpr std::uint32_t kNoColumn = std::numeric_limits<std::uint32_t>::max();
  static constexpr std::int64_t kNoNumber = daybook::kEmptyUnits;

  [[nodiscard]] std::string_view cell(std::size_t column, std::size_t row) const {
    return cells_[column].empty() ? rows_.field(row, plan_.columns[column].position) : cells_[column][row];
  }

  /// Whether the value is the number or date of a spreadsheet's cell, which cleaning has not changed.
  [[nodiscard]] bool is_typed(std::size_t column, std::size_t row) const {
    const std::size_t position = plan_.columns[column].position;
    return rows_.is_typed(row, position) && cell(column, row) == rows_.field(row, position);
  }

  /// A number that a spreadsheet has calculated may have any number of places: it is rounded to four.
  tl::expected<Decimal, DecimalFault> read_typed(std::size_t column, std::size_t row) {
    const std::string_view value = cell(column, row);
    auto number = Decimal::parse(value);
    if (number || number.error() != DecimalFault::too_many_places) return number;
    number = Decimal::parse_rounded(value);
    if (number)
      batch_.changed.push_back(
          {"", row, plan_.columns[column].name, std::string(value), number->to_text(), "round"});
    return number;
  }

  /// Remembers the first row of each currency of a column; of two, the sources differ.
  void note_currency(std::size_t column, std::size_t row, std::string_view sign) {
    auto& seen = batch_.columns[column].currencies;
    const auto same = [&](const SeenCurrency& each) { return currency_of(each.sign) == currency_of(sign); };
    if (std::none_of(seen.begin(), seen.end(), same))
      seen.push_back({std::string(sign), std::string(cell(column, row)), rows_.lines[row]});
  }

  /// A row keeps its first error.
  void fault(std::size_t row, std::size_t column, std::string reason) {
    any_fault_ = true;
    if (faulty_column_[row] != kNoColumn) return;
    faulty_column_[row] = static_cast<std::uint32_t>(column);
    reasons_.emplace(row, std::move(reason));
  }

  void read_column(std::size_t column) {
    const PlannedColumn& planned = plan_.columns[column];
    if (planned.cleaning.any()) clean(column);
    switch (planned.kind) {
      case ColumnKind::text:
        if (!rows_.typed.empty() && plan_.numbers.decimal != '.' && !planned.is_role)
          write_with_comma(column);
        return check_texts(column);
      case ColumnKind::moment:
        return read_moments(column);
      case ColumnKind::number:
        return read_numbers(column);
    }
  }

  void clean(std::size_t column) {
    const PlannedColumn& planned = plan_.columns[column];
    const CellCleaning& cleaning = planned.cleaning;
    std::vector<std::string_view>& cells = cells_[column];
    cells.reserve(rows_.size());
    for (std::size_t row = 0; row < rows_.size(); ++row) {
      std::string_view value = rows_.field(row, planned.position);
      const auto change = [&](std::string_view to, std::string_view step) {
        batch_.changed.push_back({"", row, planned.name, std::string(value), std::string(to), step});
        value = to;
      };
      if (cleaning.trim) {
        const std::string_view without = expression::trimmed(value);
        if (without.size() != value.size()) change(without, "trim");
      }
      if (!value.empty() && !cleaning.empty_as.empty() && cleaning.empty_as.contains(std::string(value)))
        change({}, "empty_as");
      if (!cleaning.replace.empty()) {
        const auto found = cleaning.replace.find(std::string(value));
        if (found != cleaning.replace.end()) change(batch_.cleaned.emplace_back(found->second), "replace");
      }
      cells.push_back(value);
    }
  }

  /// Numbers of cells as the table's texts are written, so that a column with both has one form.
  void write_with_comma(std::size_t column) {
    std::vector<std::string_view> cells(rows_.size());
    for (std::size_t row = 0; row < rows_.size(); ++row) {
      cells[row] = cell(column, row);
      const std::size_t point = is_typed(column, row) ? cells[row].find('.') : std::string_view::npos;
      if (point == std::string_view::npos) continue;
      std::string& written = batch_.cleaned.emplace_back(cells[row]);
      written[point] = plan_.numbers.decimal;
      cells[row] = written;
    }
    cells_[column] = std::move(cells);
  }

  void check_texts(std::size_t column) {
    const bool needed = plan_.columns[column].needs_value;
    if (!needed && rows_.is_ascii) return;
    for (std::size_t row = 0; row < rows_.size(); ++row) {
      const std::string_view value = cell(column, row);
      if (needed && value.empty()) {
        fault(row, column, "is empty");
      } else if (!rows_.is_ascii && !is_utf8(value)) {
        fault(row, column, "is not UTF-8 text");
      }
    }
  }

  void read_moments(std::size_t column) {
    BatchColumn& into = batch_.columns[column];
    into.days.resize(rows_.size(), daybook::kEmptyDays);
    into.seconds.resize(rows_.size(), Moment::kNoTime);
    MomentReader reader(plan_.dates);
    for (std::size_t row = 0; row < rows_.size(); ++row) {
      if (!plan_.columns[column].needs_value && cell(column, row).empty()) continue;
      auto moment =
          is_typed(column, row) ? parse_iso_moment(cell(column, row)) : reader.read(cell(column, row));
      if (!moment && is_typed(column, row)) moment = reader.read(cell(column, row));  // a serial number
      if (!moment) {
        fault(row, column, reader.describe(moment.error()));
        continue;
      }
      into.days[row] = moment->date.days;
      into.seconds[row] = moment->second_of_day;
      into.any_time |= moment->second_of_day != Moment::kNoTime;
    }
  }

  void read_numbers(std::size_t column) {
    const PlannedColumn& planned = plan_.columns[column];
    std::vector<std::int64_t>& units = batch_.columns[column].units;
    units.resize(rows_.size(), kNoNumber);
    NumberReader reader(plan_.numbers);
    for (std::size_t row = 0; row < rows_.size(); ++row) {
      const std::string_view value = cell(column, row);
      if (value.empty() && !planned.needs_value) continue;
      const bool typed = is_typed(column, row);
      const auto number = typed ? read_typed(column, row) : reader.read(value);
      if (number) {
        units[row] = number->units();
        if (!typed && !reader.currency().empty()) note_currency(column, row, reader.currency());
      } else {
        fault(row, column, std::string(describe(number.error())));
      }
    }
  }

  [[nodiscard]] const std::vector<std::int64_t>* units_of(std::string_view name) const {
    const std::size_t column = plan_.find(name);
    return column == plan_.columns.size() ? nullptr : &batch_.columns[column].units;
  }

  void read_amounts() {
    const auto* given = units_of(daybook::role::kAmount);
    const auto* quantities = units_of(daybook::role::kQuantity);
    const auto* prices = units_of(daybook::role::kUnitPrice);
    // Otherwise they are multiplied once these columns have been computed.
    const bool may_multiply =
        !plan_.is_computed(daybook::role::kQuantity) && !plan_.is_computed(daybook::role::kUnitPrice);
    batch_.amounts.resize(rows_.size(), kNoNumber);
    for (std::size_t row = 0; row < rows_.size(); ++row) {
      if (given != nullptr && (*given)[row] != kNoNumber) {
        batch_.amounts[row] = (*given)[row];
      } else if (may_multiply && quantities != nullptr && prices != nullptr &&
                 (*quantities)[row] != kNoNumber && (*prices)[row] != kNoNumber) {
        const auto amount =
            checked_multiply(Decimal::from_units((*quantities)[row]), Decimal::from_units((*prices)[row]));
        if (amount) {
          batch_.amounts[row] = amount->units();
        } else {
          fault(row, plan_.find(daybook::role::kQuantity), "times unit_price is too large");
        }
      }
    }
    for (std::size_t row = 0; row < rows_.size(); ++row) add_to_sums(row);
  }

  void add_to_sums(std::size_t row) {
    const std::int64_t units = batch_.amounts[row];
    if (units == kNoNumber) {
      ++batch_.sums.unreadable;
      return;
    }
    batch_.sums.read.add(Decimal::from_units(units));
    const bool kept = faulty_column_[row] == kNoColumn;
    (kept ? batch_.sums.kept : batch_.sums.rejected).add(Decimal::from_units(units));
  }

  void choose_rows() {
    if (!any_fault_) {
      batch_.lines = rows_.lines;
    } else {
      for (std::size_t row = 0; row < rows_.size(); ++row) {
        if (faulty_column_[row] == kNoColumn) batch_.lines.push_back(rows_.lines[row]);
      }
    }
    std::erase_if(batch_.changed,
                  [&](const ChangedCell& cell) { return faulty_column_[cell.line] != kNoColumn; });
    for (ChangedCell& changed : batch_.changed) changed.line = rows_.lines[changed.line];
  }

  template <class T>
  void compact(std::vector<T>& values) const {
    std::size_t to = 0;
    for (std::size_t row = 0; row < values.size(); ++row) {
      if (faulty_column_[row] == kNoColumn) values[to++] = values[row];
    }
    values.resize(to);
  }

  void keep_column(std::size_t column) {
    BatchColumn& into = batch_.columns[column];
    if (plan_.columns[column].kind == ColumnKind::text) return keep_texts(column);
    if (!any_fault_) return;
    compact(into.units);
    compact(into.days);
    compact(into.seconds);
  }

  /// The values of a product's last row are a good guess for columns that describe products.
  void keep_texts(std::size_t column) {
    BatchDictionary dictionary(batch_.columns[column].texts);
    const std::size_t guide = plan_.find(daybook::role::kProductId);
    const bool guided = guide < column && !plan_.columns[column].is_role;
    std::vector<std::uint32_t> hints;
    if (guided) hints.resize(batch_.columns[guide].texts.texts.size(), daybook::kEmptyCode);
    std::size_t kept = 0;
    for (std::size_t row = 0; row < rows_.size(); ++row) {
      if (any_fault_ && faulty_column_[row] != kNoColumn) continue;
      const std::string_view value = cell(column, row);
      const std::uint32_t product = guided ? batch_.columns[guide].texts.codes[kept++] : daybook::kEmptyCode;
      if (product == daybook::kEmptyCode) {
        dictionary.add(value);
      } else {
        hints[product] = dictionary.add(value, hints[product]);
      }
    }
  }

  void reject_rows() {
    for (const auto& [row, reason] : reasons_) {
      const PlannedColumn& column = plan_.columns[faulty_column_[row]];
      batch_.rejected.push_back({"", rows_.lines[row], column.header,
                                 std::string(rows_.field(row, column.position)), reason, reason,
                                 rows_.record(row, delimiter_)});
    }
  }

  RowBatch& batch_;
  const TableColumns& plan_;
  const sources::CsvRows& rows_;
  char delimiter_;
  bool any_fault_ = false;
  std::vector<std::uint32_t> faulty_column_;              // by row
  std::unordered_map<std::size_t, std::string> reasons_;  // by row
  std::vector<std::vector<std::string_view>> cells_;      // by column, if it was cleaned
};

}  // namespace

RowBatch read_rows(sources::CsvRows rows, const TableColumns& plan, char delimiter) {
  RowBatch batch;
  batch.rows_skipped = skip_rows(rows, plan.skip_rows) + skip_rows_if(rows, plan);
  batch.rows = std::make_unique<const sources::CsvRows>(std::move(rows));
  const sources::CsvRows& read = *batch.rows;
  batch.rows_read = read.size() + read.malformed.size();
  batch.sums.unreadable = read.malformed.size();
  for (const sources::MalformedRow& row : read.malformed)
    batch.rejected.push_back({"", row.line, "", "", row.reason, row.kind, row.text});
  BatchReader(batch, plan, delimiter).read();
  std::sort(batch.rejected.begin(), batch.rejected.end(),
            [](const RejectedRow& a, const RejectedRow& b) { return a.line < b.line; });
  std::stable_sort(batch.changed.begin(), batch.changed.end(),
                   [](const ChangedCell& a, const ChangedCell& b) { return a.line < b.line; });
  return batch;
}

}  // namespace pear::intake
