#include "intake/inspect/dressed_number.hpp"

#include <algorithm>

#include "base/ascii.hpp"
#include "intake/read/currency.hpp"
#include "intake/read/number_reader.hpp"

namespace pear::intake {
namespace {

constexpr std::size_t kLongestWord = 8;  // bytes of a currency or unit
constexpr std::string_view kMinus = "\u2212";

bool is_digit_sign(char c) { return is_digit(c) || c == '.' || c == ','; }

/// The bytes up to the first digit, sign, bracket or blank.
std::size_t front_word(std::string_view text) {
  std::size_t end = 0;
  while (end < text.size() && !is_digit(text[end]) && text[end] != '-' && text[end] != '(' &&
         leading_blank(text.substr(end)) == 0 && !text.substr(end).starts_with(kMinus))
    ++end;
  return end;
}

/// Three capital letters, as the codes of ISO 4217 are.
bool looks_like_code(std::string_view word) {
  return word.size() == 3 &&
         std::all_of(word.begin(), word.end(), [](char c) { return c >= 'A' && c <= 'Z'; });
}

class Undresser {
 public:
  explicit Undresser(std::string_view text) : rest_(text) {}

  std::optional<DressedNumber> run() {
    while (take_sign() || take_word()) {
    }
    if (signs_ > 1 || !put_number()) return std::nullopt;
    return std::move(result_);
  }

 private:
  bool take_sign() {
    rest_ = without_blanks(rest_);
    Dressing& dressing = result_.dressing;
    const auto cut = [&](std::size_t front, std::size_t back) {
      rest_ = rest_.substr(front, rest_.size() - front - back);
      ++signs_;
      return is_negative_ = true;
    };
    if (rest_.starts_with('-')) return cut(1, 0);
    if (rest_.starts_with(kMinus)) return cut(kMinus.size(), 0);
    if (rest_.size() > 2 && rest_.ends_with('-')) return dressing.trailing_minus = cut(0, 1);
    if (rest_.size() > 2 && rest_.front() == '(' && rest_.back() == ')') return dressing.brackets = cut(1, 1);
    if (rest_.size() > 1 && rest_.ends_with('%') && !dressing.percent) {
      rest_.remove_suffix(1);
      return dressing.percent = true;
    }
    return false;
  }

  bool take_word() {
    rest_ = without_blanks(rest_);
    if (rest_.empty() || result_.dressing.words.size() == 2) return false;
    const std::size_t front = front_word(rest_);
    if (front > 0 && front <= kLongestWord && front < rest_.size()) {
      const std::string_view word = rest_.substr(0, front);
      const bool is_apart = leading_blank(rest_.substr(front)) > 0;
      if (currency_of(word).empty() && !(is_apart && looks_like_code(word))) return false;
      return keep(word, rest_.substr(front));
    }
    std::size_t last = rest_.find_last_of("0123456789");
    if (front > 0 || last == std::string_view::npos) return false;
    // "5,-" and "5.-" are whole amounts in some countries; they are left as they are
    const std::string_view back = without_blanks(rest_.substr(last + 1));
    if (back.empty() || back.size() > kLongestWord || is_digit_sign(back.front())) return false;
    if (front_word(back) != back.size()) return false;
    return keep(back, rest_.substr(0, last + 1));
  }

  bool keep(std::string_view word, std::string_view rest) {
    result_.dressing.words.emplace_back(word);
    rest_ = rest;
    return true;
  }

  bool put_number() {
    result_.number = is_negative_ ? "-" : "";
    for (std::size_t at = 0; at < rest_.size();) {
      if (is_digit_sign(rest_[at])) {
        result_.number += rest_[at++];
        continue;
      }
      const std::string_view rest = rest_.substr(at);
      const std::size_t blank = leading_blank(rest), apostrophe = leading_separator(rest, "'");
      const std::size_t bytes = std::max(blank, apostrophe);
      const auto digits_after = rest.substr(bytes, 3);
      const bool is_group = digits_after.size() == 3 &&
                            std::all_of(digits_after.begin(), digits_after.end(), is_digit) &&
                            (rest.size() == bytes + 3 || !is_digit(rest[bytes + 3]));
      if (bytes == 0 || at == 0 || !is_group) return false;
      result_.dressing.thousands = blank > 0 ? " " : "'";
      at += bytes;
    }
    return std::any_of(result_.number.begin(), result_.number.end(), is_digit);
  }

  std::string_view rest_;
  DressedNumber result_;
  int signs_ = 0;
  bool is_negative_ = false;
};

}  // namespace

std::optional<DressedNumber> undress_number(std::string_view text) {
  constexpr std::size_t kLongest = 40;
  if (text.empty() || text.size() > kLongest) return std::nullopt;
  return Undresser(text).run();
}

}  // namespace pear::intake
