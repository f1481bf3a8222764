// Any bytes as a page of a daybook file, with the right checksum: no crash, no hang, no claim of memory
// beyond the page.
#include <algorithm>
#include <cstdint>
#include <cstdlib>
#include <string>
#include <vector>

#include <xxhash.h>

#include "storage/page.hpp"
#include "storage/schema.hpp"

namespace {

using namespace pear;

template <class T>
void decode(const storage::Page& page) {
  std::vector<T> values(page.members);
  (void)storage::decode_page<T>(page, values, storage::kEmptyOf<T>);
}

}  // namespace

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
  if (size < 3) return 0;
  storage::Page page;
  page.codec = static_cast<storage::Codec>(data[0] % 3);
  page.members = std::uint32_t{data[1]} << (data[2] % 9U);
  page.bytes.assign(reinterpret_cast<const char*>(data + 3), size - 3);
  page.checksum = XXH3_64bits(page.bytes.data(), page.bytes.size());
  decode<std::uint32_t>(page);
  decode<std::int64_t>(page);
  decode<std::int32_t>(page);
  decode<std::uint8_t>(page);
  const auto texts = storage::decode_text_page(page);
  if (texts && texts->size() != page.members) std::abort();
  return 0;
}
