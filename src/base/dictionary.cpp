#include "base/dictionary.hpp"

#include <utility>

namespace pear {

std::uint32_t Dictionary::code_of(const HashedText& text) {
  const Probe probe{text.text, short_hash(text)};
  const auto next = static_cast<std::uint32_t>(texts_.size());
  const auto slot = slots_.lazy_emplace(probe, [&](const auto& make) { make(Slot{next, probe.hash}); });
  if (slot->code == next) texts_.push_back(text.text);
  return slot->code;
}

TextArray Dictionary::take() {
  slots_.clear();
  slots_.rehash(0);
  return std::exchange(texts_, {});
}

}  // namespace pear
