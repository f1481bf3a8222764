// Arrays as pages in a scratch file: written at once, read from the beginning to the end.
#pragma once

#include <algorithm>
#include <cstdint>
#include <functional>
#include <span>
#include <string_view>
#include <vector>

#include <tbb/parallel_for.h>

#include "base/error.hpp"
#include "base/text_array.hpp"
#include "storage/runs/page_file.hpp"
#include "storage/schema.hpp"

namespace pear::storage {

/// Encodes on all threads, and passes the pages on in order: use(page) -> OrError<void>.
template <class T, class Use>
[[nodiscard]] OrError<void> encode_in_order(std::span<const T> values, Use use) {
  constexpr std::size_t kAtOnce = 16;  // pages in memory
  for (std::size_t begin = 0; begin < values.size(); begin += kAtOnce * kPageValues) {
    const std::span<const T> part =
        values.subspan(begin, std::min(kAtOnce * kPageValues, values.size() - begin));
    std::vector<Page> pages((part.size() + kPageValues - 1) / kPageValues);
    tbb::parallel_for(std::size_t{0}, pages.size(), [&](std::size_t page) {
      const std::size_t from = page * kPageValues;
      pages[page] =
          encode_page<T>(part.subspan(from, std::min(kPageValues, part.size() - from)), kEmptyOf<T>);
    });
    for (const Page& page : pages) PEAR_TRY(use(page));
  }
  return {};
}

template <class T>
[[nodiscard]] OrError<ArrayPages> write_array(PageFile& file, std::span<const T> values) {
  ArrayPages pages;
  PEAR_TRY(encode_in_order(values, [&](const Page& page) -> OrError<void> {
    PEAR_ASSIGN(pages.emplace_back(), file.append(page));
    return {};
  }));
  return pages;
}

/// The same for texts.
[[nodiscard]] OrError<void> encode_texts_in_order(const TextArray& texts,
                                                  const std::function<OrError<void>(const Page&)>& use);
[[nodiscard]] OrError<ArrayPages> write_texts(PageFile& file, const TextArray& texts);

/// Reads an array of integers in order. Borrows the file and the places. Errors: io; data, for damaged bytes.
template <class T>
class ArrayCursor {
 public:
  ArrayCursor(const PageFile& file, const ArrayPages& pages) : file_(&file), pages_(&pages) {}

  /// The next values, valid until the next call. Error: internal, at the end of the array.
  [[nodiscard]] OrError<std::span<const T>> next(std::size_t count) {
    if (count <= values_.size() - at_) {
      at_ += count;
      return std::span<const T>(values_).subspan(at_ - count, count);
    }
    joined_.clear();
    while (joined_.size() < count) {
      if (at_ == values_.size()) PEAR_TRY(read_page());
      const std::size_t some = std::min(count - joined_.size(), values_.size() - at_);
      const auto from = values_.begin() + static_cast<std::ptrdiff_t>(at_);
      joined_.insert(joined_.end(), from, from + static_cast<std::ptrdiff_t>(some));
      at_ += some;
    }
    return std::span<const T>(joined_);
  }

 private:
  OrError<void> read_page() {
    if (page_ == pages_->size()) return internal_error("an array of a sorted run ends too early");
    PEAR_ASSIGN(const Page page, file_->read((*pages_)[page_++]));
    values_.resize(page.members);
    at_ = 0;
    return decode_page<T>(page, values_, kEmptyOf<T>);
  }

  const PageFile* file_;
  const ArrayPages* pages_;
  std::size_t page_ = 0;
  std::vector<T> values_, joined_;
  std::size_t at_ = 0;
};

/// Reads texts in order.
class TextCursor {
 public:
  TextCursor(const PageFile& file, const ArrayPages& pages) : file_(&file), pages_(&pages) {}

  [[nodiscard]] bool at_end() const { return at_ == texts_.size() && page_ == pages_->size(); }
  /// The next text, valid until the next call. Error: internal, at the end of the array.
  [[nodiscard]] OrError<std::string_view> next();

 private:
  const PageFile* file_;
  const ArrayPages* pages_;
  std::size_t page_ = 0;
  TextArray texts_;
  std::size_t at_ = 0;
};

}  // namespace pear::storage
