#include "result/cell_text.hpp"

#include <algorithm>
#include <array>
#include <charconv>
#include <cmath>

#include <fmt/format.h>

namespace pear::result {
namespace {

/// Six places. Uses integers, which is fast, except where the direction of rounding is uncertain.
char* write_share(char* to, double share) {
  const double millionths = share * 1e6;
  const double whole = std::nearbyint(millionths);
  const bool easy = share >= 0 && whole < 1e7 && std::abs(millionths - whole) < 0.4999;
  if (!easy) return fmt::format_to(to, "{:.6f}", share);
  constexpr std::size_t kSize = 8;
  auto rest = static_cast<std::uint32_t>(whole);
  to[1] = '.';
  for (std::size_t place = kSize; place-- > 2; rest /= 10) to[place] = static_cast<char>('0' + rest % 10);
  to[0] = static_cast<char>('0' + rest);
  return to + kSize;
}

char* write_fraction(char* to, Unit unit, double fraction) {
  if (std::isnan(fraction)) return to;
  return unit == Unit::share ? write_share(to, fraction) : fmt::format_to(to, "{:.6g}", fraction);
}

char* write_integer(char* to, Unit unit, std::int64_t value) {
  if (value == kEmptyCell) return to;
  switch (unit) {
    case Unit::date:
      return write_text(Date{static_cast<std::int32_t>(value)}, to);
    case Unit::money:
      return Decimal::from_units(value).write_text(to, 2);
    case Unit::number:
      return Decimal::from_units(value).write_text(to);
    default:
      return std::to_chars(to, to + Decimal::kLongestText, value).ptr;
  }
}

template <class T>
void read_values(const TableColumn& column, std::size_t begin, std::size_t end, std::vector<T>& values) {
  values.resize(end - begin);
  if (const auto* stored = std::get_if<std::vector<T>>(&column.values))
    std::copy_n(stored->begin() + static_cast<std::ptrdiff_t>(begin), end - begin, values.begin());
  else
    std::get<LazyColumn<T>>(column.values).fill(begin, end, values.data());
}

}  // namespace

void CellReader::read(std::size_t begin, std::size_t end) {
  begin_ = begin;
  if (const auto* composed = std::get_if<LazyColumn<std::string>>(&column_.values)) {
    composed_.resize(end - begin);
    composed->fill(begin, end, composed_.data());
    texts_.assign(composed_.begin(), composed_.end());
  } else if (const auto* seen = std::get_if<LazyColumn<std::string_view>>(&column_.values)) {
    texts_.resize(end - begin);
    seen->fill(begin, end, texts_.data());
    for (const std::string_view text : texts_) __builtin_prefetch(text.data());  // from all over memory
  } else if (is_text()) {
    texts_.clear();
    for (std::size_t row = begin; row < end; ++row) texts_.push_back(column_.text(row));
  } else if (is_fraction(column_.unit))
    read_values(column_, begin, end, fractions_);
  else
    read_values(column_, begin, end, integers_);
}

char* CellReader::write(char* to, std::size_t row) const {
  return is_fraction(column_.unit) ? write_fraction(to, column_.unit, fractions_[row - begin_])
                                   : write_integer(to, column_.unit, integers_[row - begin_]);
}

std::string cell_text(const TableColumn& column, std::size_t row) {
  if (column.unit == Unit::text) return std::string(column.text(row));
  std::array<char, CellReader::kLongest> text;
  char* end = is_fraction(column.unit) ? write_fraction(text.data(), column.unit, column.fraction(row))
                                       : write_integer(text.data(), column.unit, column.integer(row));
  return std::string(text.data(), end);
}

}  // namespace pear::result
