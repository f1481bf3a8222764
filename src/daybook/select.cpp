#include "daybook/select.hpp"

#include <algorithm>
#include <utility>

#include <tbb/parallel_for.h>

namespace pear::daybook {
namespace {

/// What remains, by position in the old daybook, and the nesting of the new one.
struct Kept {
  std::vector<std::uint32_t> customers, orders, lines;
  std::vector<std::uint32_t> order_offsets, line_offsets;
};

/// The customers from `begin` on, as many as `end` says; offsets count from 0 within them.
Kept kept_of(const Daybook& daybook, const std::vector<std::uint8_t>& chosen, std::uint32_t begin,
             std::uint32_t end) {
  Kept kept;
  if (begin == end) return kept;
  const std::uint32_t first_line = daybook.lines_of(daybook.orders_of(begin).begin).begin;
  const std::uint32_t last_line = daybook.lines_of(daybook.orders_of(end - 1).end - 1).end;
  kept.lines.resize(last_line - first_line);  // cut to what is used below
  std::uint32_t lines_kept = 0;
  for (std::uint32_t customer = begin; customer < end; ++customer) {
    const std::size_t orders_before = kept.orders.size();
    const Run orders = daybook.orders_of(customer);
    for (std::uint32_t order = orders.begin; order < orders.end; ++order) {
      const std::uint32_t lines_before = lines_kept;
      const Run lines = daybook.lines_of(order);
      for (std::uint32_t line = lines.begin; line < lines.end; ++line) {
        kept.lines[lines_kept] = line;  // kept if the line is chosen
        lines_kept += chosen[line];
      }
      if (lines_kept == lines_before) continue;
      kept.orders.push_back(order);
      kept.line_offsets.push_back(lines_before);
    }
    if (kept.orders.size() == orders_before) continue;
    kept.customers.push_back(customer);
    kept.order_offsets.push_back(static_cast<std::uint32_t>(orders_before));
  }
  kept.lines.resize(lines_kept);
  return kept;
}

/// Where the members of a run begin among all.
struct RunPlace {
  std::size_t customers = 0, orders = 0, lines = 0;
};

void copy(const std::vector<std::uint32_t>& from, std::vector<std::uint32_t>& to, std::size_t at,
          std::size_t more) {
  for (std::size_t i = 0; i < from.size(); ++i) to[at + i] = from[i] + static_cast<std::uint32_t>(more);
}

Kept kept_of_all(const Daybook& daybook, const std::vector<std::uint8_t>& chosen) {
  constexpr std::uint32_t kRuns = 64;
  const auto first_of = [&](std::uint32_t run) {
    return static_cast<std::uint32_t>(std::uint64_t{daybook.customers()} * run / kRuns);
  };
  std::vector<Kept> runs(kRuns);
  tbb::parallel_for(std::uint32_t{0}, kRuns, [&](std::uint32_t run) {
    runs[run] = kept_of(daybook, chosen, first_of(run), first_of(run + 1));
  });
  std::vector<RunPlace> places = {{}};
  for (const Kept& run : runs)
    places.push_back({places.back().customers + run.customers.size(),
                      places.back().orders + run.orders.size(), places.back().lines + run.lines.size()});
  Kept all;
  all.customers.resize(places.back().customers);
  all.orders.resize(places.back().orders);
  all.lines.resize(places.back().lines);
  all.order_offsets.resize(all.customers.size() + 1, static_cast<std::uint32_t>(all.orders.size()));
  all.line_offsets.resize(all.orders.size() + 1, static_cast<std::uint32_t>(all.lines.size()));
  tbb::parallel_for(std::uint32_t{0}, kRuns, [&](std::uint32_t run) {
    const RunPlace& place = places[run];
    const Kept kept = std::move(runs[run]);
    copy(kept.customers, all.customers, place.customers, 0);
    copy(kept.orders, all.orders, place.orders, 0);
    copy(kept.lines, all.lines, place.lines, 0);
    copy(kept.order_offsets, all.order_offsets, place.customers, place.orders);
    copy(kept.line_offsets, all.line_offsets, place.orders, place.lines);
  });
  return all;
}

template <class T>
void pick(std::vector<T>& array, const std::vector<std::uint32_t>& positions) {
  std::vector<T> picked(positions.size());
  constexpr std::size_t kBlock = 65'536;
  tbb::parallel_for(std::size_t{0}, (positions.size() + kBlock - 1) / kBlock, [&](std::size_t block) {
    const std::size_t end = std::min(positions.size(), (block + 1) * kBlock);
    for (std::size_t i = block * kBlock; i < end; ++i) picked[i] = array[positions[i]];
  });
  array = std::move(picked);
}

const std::vector<std::uint32_t>* positions_of(Level level, const Kept& kept) {
  switch (level) {
    case Level::line:
      return &kept.lines;
    case Level::order:
      return &kept.orders;
    case Level::customer:
      return &kept.customers;
    case Level::product:
      break;
  }
  return nullptr;
}

}  // namespace

Daybook select_lines(Daybook daybook, const std::vector<std::uint8_t>& chosen) {
  if (std::find(chosen.begin(), chosen.end(), 0) == chosen.end()) return daybook;
  Kept kept = kept_of_all(daybook, chosen);
  DaybookParts parts = std::move(daybook).take_parts();
  for (Column& column : parts.columns) {
    if (const auto* positions = positions_of(column.level, kept))
      std::visit([&](auto& values) { pick(array_of(values), *positions); }, column.values);
  }
  if (!parts.customer_ids.empty()) parts.customer_ids = parts.customer_ids.picked(kept.customers);
  if (!parts.order_ids.empty()) parts.order_ids = parts.order_ids.picked(kept.orders);
  if (!parts.line_products.empty()) pick(parts.line_products, kept.lines);
  parts.order_offsets = std::move(kept.order_offsets);
  parts.line_offsets = std::move(kept.line_offsets);
  return Daybook(std::move(parts));
}

}  // namespace pear::daybook
