// A CSV table, read in parts that are parsed in parallel and delivered in order.
#pragma once

#include <atomic>
#include <cstdint>
#include <memory>
#include <optional>
#include <string>
#include <utility>
#include <vector>

#include <tbb/parallel_pipeline.h>

#include "base/error.hpp"
#include "sources/byte_source.hpp"
#include "sources/csv_chunk.hpp"

namespace pear::sources {

/// A table whose header has been read. Then call for_each_part() once.
///
/// Parts are parsed in parallel although a line feed may be within quotes: each part is cut after a line feed
/// and parsed as if a row began there, by its own parser. When the parts are put in order, a parser that
/// ended within a quoted field shows that the next part began wrongly: that part's result is dropped, and the
/// same parser continues with its text. So the rows are those of one parser that reads the whole file, for
/// any number of threads.
class CsvReader {
 public:
  /// Small enough that the rows of a part stay in the processor's cache.
  static constexpr std::size_t kPartBytes = std::size_t{1} << 18U;

  /// Reads the header of a UTF-8 text, which is empty if the text is. Detects the delimiter if it is not
  /// given. `header_line`: the line of the header, from 1; 0 for the first that is not blank. `part_bytes` is
  /// about how much text is parsed at once; it changes only speed and memory. Errors: data, if there is no
  /// such line near the beginning; those of the source.
  [[nodiscard]] static OrError<CsvReader> open(std::unique_ptr<ByteSource> source,
                                               std::optional<char> delimiter = std::nullopt,
                                               std::uint64_t header_line = 0,
                                               std::size_t part_bytes = kPartBytes);

  [[nodiscard]] const std::vector<std::string>& header() const { return header_; }
  [[nodiscard]] char delimiter() const { return format_.delimiter; }
  [[nodiscard]] const ByteSource& source() const { return *source_; }

  /// convert(CsvRows) -> T is called for parts in parallel; collect(T, first_line) for the parts in
  /// order, where adding first_line to the lines of the rows gives the line of the file (the first is 1).
  /// Error: data, for a field of more than 16 MiB, naming the line where it begins.
  template <class Convert, class Collect>
  [[nodiscard]] OrError<void> for_each_part(Convert convert, Collect collect);

 private:
  struct Part {
    std::string text;
    bool is_last = false;
    std::shared_ptr<CsvParser> parser;
  };

  CsvReader(std::unique_ptr<ByteSource> source, std::size_t part_bytes)
      : source_(std::move(source)), part_bytes_(part_bytes) {}
  [[nodiscard]] OrError<void> read_header(std::optional<char> delimiter, std::uint64_t header_line);
  /// The next part, ending in a line feed or with the file; nothing after the last.
  [[nodiscard]] OrError<std::optional<Part>> next_part();
  [[nodiscard]] std::shared_ptr<CsvParser> parsed(const Part& part) const;
  [[nodiscard]] OrError<void> check_field_size(const CsvParser& parser) const;

  std::unique_ptr<ByteSource> source_;
  std::size_t part_bytes_;
  CsvFormat format_;
  std::vector<std::string> header_;
  std::string rest_;              // read, but not delivered yet
  std::uint64_t first_line_ = 1;  // line of the file on which the next part begins
  bool ended_ = false;
};

template <class Convert, class Collect>
OrError<void> CsvReader::for_each_part(Convert convert, Collect collect) {
  using Converted = std::invoke_result_t<Convert, CsvRows>;
  struct Work {
    Part part;
    std::optional<Converted> converted;
  };
  OrError<void> outcome;
  std::atomic<bool> failed = false;
  const auto fail = [&](Error error) {  // called by the two in-order stages; the first error stays
    if (!failed.exchange(true)) outcome = tl::unexpected(std::move(error));
  };

  const auto read = [&](tbb::flow_control& control) -> std::shared_ptr<Work> {
    if (!failed) {
      auto part = next_part();
      if (part && *part) return std::make_shared<Work>(Work{std::move(**part), std::nullopt});
      if (!part) fail(std::move(part).error());
    }
    control.stop();
    return nullptr;
  };
  const auto parse = [&](std::shared_ptr<Work> work) {
    work->part.parser = parsed(work->part);
    work->converted = convert(work->part.parser->take());
    return work;
  };

  std::shared_ptr<CsvParser> unfinished;  // ended within a quoted field
  const auto settle = [&](const std::shared_ptr<Work>& work) {
    if (failed) return;
    Part& part = work->part;
    if (unfinished) {
      unfinished->feed(part.text);
      if (part.is_last) unfinished->finish();
      part.parser = unfinished;
      work->converted = convert(unfinished->take());
    }
    collect(std::move(*work->converted), first_line_);
    if (part.parser->at_row_end()) {
      first_line_ += part.parser->lines();
      unfinished = nullptr;
    } else {
      unfinished = part.parser;
      if (auto fits = check_field_size(*unfinished); !fits) fail(std::move(fits).error());
    }
  };
  constexpr std::size_t kPartsAtOnce = 6;
  tbb::parallel_pipeline(
      kPartsAtOnce,
      tbb::make_filter<void, std::shared_ptr<Work>>(tbb::filter_mode::serial_in_order, read) &
          tbb::make_filter<std::shared_ptr<Work>, std::shared_ptr<Work>>(tbb::filter_mode::parallel, parse) &
          tbb::make_filter<std::shared_ptr<Work>, void>(tbb::filter_mode::serial_in_order, settle));
  return outcome;
}

}  // namespace pear::sources
