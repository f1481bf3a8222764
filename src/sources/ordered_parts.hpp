// Reads, converts and collects the parts of a table at once, in order.
#pragma once

#include <atomic>
#include <cstdint>
#include <memory>
#include <optional>
#include <type_traits>
#include <utility>

#include <tbb/parallel_pipeline.h>

#include "base/error.hpp"
#include "sources/csv_chunk.hpp"

namespace pear::sources {

/// fetch() -> OrError<std::optional<Part>> gives the next part of the source, nothing after the last;
/// parse(Part) -> OrError<CsvRows> and convert(CsvRows) -> T run for several parts at once; collect(T)
/// receives the results in order. Returns the first error in the order of the parts; nothing after it is
/// collected.
template <class Fetch, class Parse, class Convert, class Collect>
[[nodiscard]] OrError<void> for_each_ordered_part(Fetch fetch, Parse parse, Convert convert,
                                                  Collect collect) {
  using Part = typename std::invoke_result_t<Fetch>::value_type::value_type;
  using Converted = std::invoke_result_t<Convert, CsvRows>;
  struct Work {
    OrError<std::optional<Part>> part;
    std::optional<Converted> converted;
    OrError<void> outcome;
  };
  using Passed = std::shared_ptr<Work>;
  std::atomic<bool> failed = false;
  OrError<void> outcome;
  const auto read = [&](tbb::flow_control& control) -> Passed {
    if (!failed) {
      auto part = fetch();
      failed = failed || !part;
      if (!part || *part) return std::make_shared<Work>(Work{std::move(part), std::nullopt, {}});
    }
    control.stop();
    return nullptr;
  };
  const auto work_on = [&](Passed work) {
    if (!work->part) {
      work->outcome = tl::unexpected(std::move(work->part).error());
      return work;
    }
    auto rows = parse(std::move(**work->part));
    if (rows) {
      work->converted = convert(std::move(*rows));
    } else {
      work->outcome = tl::unexpected(std::move(rows).error());
    }
    return work;
  };
  const auto settle = [&](const Passed& work) {
    if (!outcome) return;
    outcome = std::move(work->outcome);
    if (outcome) {
      collect(std::move(*work->converted));
    } else {
      failed = true;
    }
  };
  constexpr std::size_t kPartsAtOnce = 6;
  tbb::parallel_pipeline(kPartsAtOnce,
                         tbb::make_filter<void, Passed>(tbb::filter_mode::serial_in_order, read) &
                             tbb::make_filter<Passed, Passed>(tbb::filter_mode::parallel, work_on) &
                             tbb::make_filter<Passed, void>(tbb::filter_mode::serial_in_order, settle));
  return outcome;
}

}  // namespace pear::sources
