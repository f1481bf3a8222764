// Codes for the texts of one batch, while it is read.
#pragma once

#include <string_view>

#include <absl/container/flat_hash_set.h>

#include "base/short_text.hpp"
#include "daybook/column.hpp"
#include "intake/read/row_batch.hpp"

namespace pear::intake {

/// Fills a BatchTexts line by line. Its table contains only codes, so that it stays in the cache; a code's
/// text and hash are looked up in `into`, which must not move meanwhile.
class BatchDictionary {
 public:
  explicit BatchDictionary(BatchTexts& into) : into_(into), table_(0, Hash{&into}, Equal{&into}) {}

  /// Returns the text's code. `hint` is a code that the text probably has; any value will do.
  std::uint32_t add(std::string_view text, std::uint32_t hint = daybook::kEmptyCode) {
    const std::uint32_t code = text.empty() ? daybook::kEmptyCode : code_of(text, hint);
    into_.codes.push_back(code);
    return code;
  }

 private:
  struct Hash {
    using is_transparent = void;
    const BatchTexts* of;
    std::size_t operator()(std::uint32_t code) const { return of->texts[code].hash; }
    std::size_t operator()(const HashedText& text) const { return text.hash; }
  };
  struct Equal {
    using is_transparent = void;
    const BatchTexts* of;
    bool operator()(std::uint32_t a, std::uint32_t b) const { return a == b; }
    bool operator()(std::uint32_t a, const HashedText& b) const {
      return of->texts[a].hash == b.hash && same_text(of->texts[a].text, b.text);
    }
    bool operator()(const HashedText& a, std::uint32_t b) const { return (*this)(b, a); }
  };

  [[nodiscard]] bool has(std::uint32_t code, std::string_view text) const {
    return code < into_.texts.size() && same_text(into_.texts[code].text, text);
  }

  std::uint32_t code_of(std::string_view text, std::uint32_t hint) {
    // Lines of one order follow each other, so most ids equal the previous one.
    if (!into_.codes.empty() && has(into_.codes.back(), text)) return into_.codes.back();
    if (has(hint, text)) return hint;
    const HashedText hashed(text);
    return *table_.lazy_emplace(hashed, [&](const auto& make) {
      into_.texts.push_back(hashed);
      make(static_cast<std::uint32_t>(into_.texts.size() - 1));
    });
  }

  BatchTexts& into_;
  absl::flat_hash_set<std::uint32_t, Hash, Equal> table_;
};

}  // namespace pear::intake
