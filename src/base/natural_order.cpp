#include "base/natural_order.hpp"

#include "base/ascii.hpp"

namespace pear {
namespace {

std::size_t end_of_digits(std::string_view text, std::size_t from) {
  while (from < text.size() && is_digit(text[from])) ++from;
  return from;
}

std::size_t skip_zeros(std::string_view text, std::size_t from, std::size_t end) {
  while (from < end && text[from] == '0') ++from;
  return from;
}

}  // namespace

std::strong_ordering natural_compare(std::string_view a, std::string_view b) {
  std::size_t i = 0;
  std::size_t j = 0;
  while (i < a.size() && j < b.size()) {
    if (is_digit(a[i]) && is_digit(b[j])) {
      const std::size_t a_end = end_of_digits(a, i);
      const std::size_t b_end = end_of_digits(b, j);
      i = skip_zeros(a, i, a_end);
      j = skip_zeros(b, j, b_end);
      if (const auto by_length = (a_end - i) <=> (b_end - j); by_length != 0) return by_length;
      // Same number of significant digits: their byte order is their numeric order.
      if (const int by_digits = a.substr(i, a_end - i).compare(b.substr(j, b_end - j)); by_digits != 0)
        return by_digits <=> 0;
      i = a_end;
      j = b_end;
    } else {
      const auto order = static_cast<unsigned char>(a[i]) <=> static_cast<unsigned char>(b[j]);
      if (order != 0) return order;
      ++i;
      ++j;
    }
  }
  if (const auto by_rest = (a.size() - i) <=> (b.size() - j); by_rest != 0) return by_rest;
  return a.compare(b) <=> 0;
}

}  // namespace pear
