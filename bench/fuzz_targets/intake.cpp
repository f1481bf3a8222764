// Any bytes as an intake file: no crash, no hang.
#include <cstdint>
#include <string_view>

#include "intake/plan/intake_file.hpp"

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
  (void)pear::intake::parse_intake({reinterpret_cast<const char*>(data), size}, "shop.toml");
  return 0;
}
