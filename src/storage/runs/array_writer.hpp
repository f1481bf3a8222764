// Writes an array into a daybook file, some values at a time.
#pragma once

#include <span>
#include <string>
#include <utility>
#include <vector>

#include "base/text_array.hpp"
#include "storage/runs/array_pages.hpp"
#include "storage/segment_table.hpp"

namespace pear::storage {

/// Fills pages and writes them. Call finish() at the end. Errors: io.
template <class T>
class ArrayWriter {
 public:
  ArrayWriter(SegmentTable& segments, std::string name) : segments_(&segments), name_(std::move(name)) {}

  [[nodiscard]] OrError<void> add(std::span<const T> values) {
    while (!values.empty()) {
      const std::span<const T> some = values.first(std::min(values.size(), kBuffered - buffer_.size()));
      buffer_.insert(buffer_.end(), some.begin(), some.end());
      values = values.subspan(some.size());
      if (buffer_.size() == kBuffered) PEAR_TRY(flush());
    }
    return {};
  }
  [[nodiscard]] OrError<void> finish() { return flush(); }

 private:
  static constexpr std::size_t kBuffered = 16 * kPageValues;
  OrError<void> flush() {
    PEAR_TRY(encode_in_order(std::span<const T>(buffer_),
                             [&](const Page& page) { return segments_->add(name_, page_++, page); }));
    buffer_.clear();
    return {};
  }
  SegmentTable* segments_;
  std::string name_;
  std::size_t page_ = 0;
  std::vector<T> buffer_;
};

/// The same for texts.
class TextWriter {
 public:
  TextWriter(SegmentTable& segments, std::string name) : segments_(&segments), name_(std::move(name)) {}

  [[nodiscard]] OrError<void> add(std::string_view text) {
    buffer_.push_back(text);
    return buffer_.size() == kBuffered ? flush() : OrError<void>();
  }
  [[nodiscard]] OrError<void> finish() { return flush(); }

 private:
  static constexpr std::size_t kBuffered = 16 * kPageValues;
  OrError<void> flush() {
    PEAR_TRY(encode_texts_in_order(buffer_,
                                   [&](const Page& page) { return segments_->add(name_, page_++, page); }));
    buffer_ = {};
    return {};
  }
  SegmentTable* segments_;
  std::string name_;
  std::size_t page_ = 0;
  TextArray buffer_;
};

}  // namespace pear::storage
