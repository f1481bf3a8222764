// Creates many texts on all threads.
#pragma once

#include <algorithm>
#include <cstddef>
#include <string>
#include <vector>

#include <tbb/parallel_for.h>

#include "base/text_array.hpp"

namespace pear::analysis {

/// In order: make(row, text) writes the text of a row into `text`, which is empty.
template <class Make>
TextArray parallel_texts(std::size_t rows, const Make& make) {
  constexpr std::size_t kBlock = 16'384;
  std::vector<TextArray> blocks((rows + kBlock - 1) / kBlock);
  tbb::parallel_for(std::size_t{0}, blocks.size(), [&](std::size_t block) {
    std::string text;
    for (std::size_t row = block * kBlock; row < std::min(rows, (block + 1) * kBlock); ++row) {
      text.clear();
      make(row, text);
      blocks[block].push_back(text);
    }
  });
  return TextArray::joined(blocks);
}

}  // namespace pear::analysis
