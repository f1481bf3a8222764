// For hash maps whose keys are texts and are looked up by views.
#pragma once

#include <functional>
#include <string_view>

namespace pear {

struct TextHash {
  using is_transparent = void;
  std::size_t operator()(std::string_view text) const { return std::hash<std::string_view>{}(text); }
};

}  // namespace pear
