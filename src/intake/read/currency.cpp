#include "intake/read/currency.hpp"

#include <algorithm>
#include <utility>

namespace pear::intake {
namespace {

constexpr std::pair<std::string_view, std::string_view> kSigns[] = {
    {"€", "EUR"},   {"£", "GBP"},    {"$", "$"},     {"US$", "USD"}, {"CA$", "CAD"}, {"C$", "CAD"},
    {"A$", "AUD"},  {"NZ$", "NZD"},  {"HK$", "HKD"}, {"S$", "SGD"},  {"R$", "BRL"},  {"¥", "¥"},
    {"￥", "¥"},    {"₹", "INR"},    {"Rs", "Rs"},   {"Rs.", "Rs"},  {"₽", "RUB"}, {"₺", "TRY"},
    {"₩", "KRW"},   {"₪", "ILS"},    {"₫", "VND"},   {"₴", "UAH"},   {"₦", "NGN"},   {"₱", "PHP"},
    {"฿", "THB"},   {"zł", "PLN"},   {"Kč", "CZK"},  {"Ft", "HUF"},  {"kr", "kr"},   {"kr.", "kr"},
    {"Fr.", "CHF"}, {"SFr.", "CHF"}, {"lei", "RON"}, {"лв", "BGN"},  {"лв.", "BGN"}};

constexpr std::string_view kCodes[] = {
    "AED", "ARS", "AUD", "BGN", "BHD", "BRL", "CAD", "CHF", "CLP", "CNY", "COP", "CZK", "DKK", "EGP",
    "EUR", "GBP", "GEL", "HKD", "HRK", "HUF", "IDR", "ILS", "INR", "ISK", "JPY", "KES", "KRW", "KWD",
    "KZT", "MAD", "MXN", "MYR", "NGN", "NOK", "NZD", "PEN", "PHP", "PKR", "PLN", "QAR", "RON", "RSD",
    "RUB", "SAR", "SEK", "SGD", "THB", "TND", "TRY", "TWD", "UAH", "USD", "UYU", "VND", "ZAR"};

}  // namespace

std::string_view currency_of(std::string_view sign) {
  constexpr std::size_t kLongest = 6;  // bytes
  if (sign.empty() || sign.size() > kLongest) return {};
  for (const auto& [known, code] : kSigns) {
    if (known == sign) return code;
  }
  const auto* const code = std::find(std::begin(kCodes), std::end(kCodes), sign);
  return code == std::end(kCodes) ? std::string_view() : *code;
}

}  // namespace pear::intake
