#include "storage/runs/array_pages.hpp"

namespace pear::storage {

OrError<void> encode_texts_in_order(const TextArray& texts,
                                    const std::function<OrError<void>(const Page&)>& use) {
  std::vector<Page> pages((texts.size() + kPageValues - 1) / kPageValues);
  tbb::parallel_for(std::size_t{0}, pages.size(), [&](std::size_t page) {
    const std::size_t begin = page * kPageValues;
    pages[page] = encode_text_page(texts, begin, std::min(texts.size(), begin + kPageValues));
  });
  for (const Page& page : pages) PEAR_TRY(use(page));
  return {};
}

OrError<ArrayPages> write_texts(PageFile& file, const TextArray& texts) {
  ArrayPages places;
  PEAR_TRY(encode_texts_in_order(texts, [&](const Page& page) -> OrError<void> {
    PEAR_ASSIGN(places.emplace_back(), file.append(page));
    return {};
  }));
  return places;
}

OrError<std::string_view> TextCursor::next() {
  if (at_ == texts_.size()) {
    if (page_ == pages_->size()) return internal_error("the texts of a sorted run end too early");
    PEAR_ASSIGN(const Page page, file_->read((*pages_)[page_++]));
    PEAR_ASSIGN(texts_, decode_text_page(page));
    at_ = 0;
  }
  return texts_[at_++];
}

}  // namespace pear::storage
