#include "storage/runs/sorted_runs.hpp"

#include <limits>
#include <utility>

#include <fmt/format.h>

#include "base/text.hpp"
#include "daybook/nesting.hpp"
#include "storage/runs/array_pages.hpp"
#include "storage/schema.hpp"

namespace pear::storage {
namespace {

/// Replaces codes of the part by those of all parts.
void translate(std::vector<std::uint32_t>& codes, const TextArray& texts, Dictionary& all) {
  std::vector<std::uint32_t> known(texts.size());
  for (std::size_t i = 0; i < known.size(); ++i) known[i] = all.code_of(HashedText(texts[i]));
  for (std::uint32_t& code : codes)
    if (code != daybook::kEmptyCode) code = known[code];
}

template <class T>
OrError<ArrayPages> write_values(PageFile& file, const std::vector<T>& values) {
  return write_array(file, std::span<const T>(values));
}

}  // namespace

OrError<void> SortedRuns::add(daybook::LineTable part) {
  lines += part.lines();
  constexpr std::uint64_t kMostLines = std::numeric_limits<std::uint32_t>::max() - 1;
  if (lines > kMostLines)
    return data_error(fmt::format("the sales have more than {} lines, which is what a daybook holds.",
                                  with_thousands(static_cast<std::int64_t>(kMostLines))));
  PEAR_ASSIGN(daybook::NestedLines nested, daybook::nest_lines(std::move(part)));
  orders_with_two_dates += nested.orders_with_two_dates;
  shared_order_ids += nested.shared_order_ids;
  PEAR_ASSIGN(PageFile file, PageFile::create(fmt::format("{}/run-{}", folder_, runs.size() + 1)));
  SortedRun run(std::move(file));
  daybook::DaybookParts& parts = nested.parts;
  run.customers = parts.customer_ids.size();
  translate(parts.line_products, parts.product_ids, *product_ids);
  PEAR_ASSIGN(run.customer_ids, write_texts(run.file, parts.customer_ids));
  PEAR_ASSIGN(run.orders_per_customer, write_values(run.file, counts_of(parts.order_offsets)));
  PEAR_ASSIGN(run.order_ids, write_texts(run.file, parts.order_ids));
  PEAR_ASSIGN(run.lines_per_order, write_values(run.file, counts_of(parts.line_offsets)));
  PEAR_ASSIGN(run.line_products, write_values(run.file, parts.line_products));
  for (const daybook::Column& column : parts.columns) {
    if (const auto* days = std::get_if<daybook::DateValues>(&column.values)) {
      PEAR_ASSIGN(run.order_days, write_values(run.file, days->days));
    } else if (const auto* times = std::get_if<daybook::TimeValues>(&column.values)) {
      PEAR_ASSIGN(run.order_seconds, write_values(run.file, times->seconds));
    } else if (const auto* flags = std::get_if<daybook::FlagValues>(&column.values)) {
      PEAR_ASSIGN(run.is_return, write_values(run.file, flags->flags));
    }
  }
  parts = {};
  run.columns.resize(nested.columns.size());
  for (std::size_t i = 0; i < nested.columns.size(); ++i)
    PEAR_TRY(add_column(nested.columns[i], nested.line_positions, run, i));
  runs.push_back(std::move(run));
  return {};
}

OrError<void> SortedRuns::add_column(daybook::CandidateColumn& candidate,
                                     const std::vector<std::uint32_t>& line_positions, SortedRun& run,
                                     std::size_t position) {
  daybook::Column& column = candidate.column;
  if (position == columns.size())
    columns.push_back(
        {column.name, candidate.levels, candidate.forced, column.type(),
         column.type() == daybook::ColumnType::text ? std::make_unique<Dictionary>() : nullptr});
  const RunColumn& known = columns[position];
  if (known.name != column.name || known.type != column.type())
    return internal_error(fmt::format("the column {} of a sorted run is {}", column.name, known.name));
  daybook::put_in_line_order(column.values, line_positions);
  if (auto* text = std::get_if<daybook::TextValues>(&column.values)) {
    translate(text->codes, text->dictionary, *known.texts);
    text->dictionary = {};
  }
  auto written = std::visit(
      [&](const auto& values) { return write_values(run.file, daybook::array_of(values)); }, column.values);
  PEAR_TRY(written);
  run.columns[position] = std::move(*written);
  column.values = {};
  return {};
}

}  // namespace pear::storage
