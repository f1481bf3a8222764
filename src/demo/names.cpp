#include "demo/names.hpp"

#include <array>
#include <string_view>

#include <fmt/format.h>

#include "demo/raw_files.hpp"

namespace pear::demo {
namespace {

constexpr std::array<std::string_view, 40> kFirstNames = {
    "Tamsel", "Orrin",   "Jörrin", "Velda",  "Ansgild", "Perrow", "Ludwen", "Mirsa",  "Hathel", "Corvane",
    "Elspit", "Brannel", "Siddow", "Yvanne", "Thörl",   "Kestra", "Odwin",  "Fennel", "Marrit", "Quenby",
    "Rosalt", "Derwin",  "Isarn",  "Gudwen", "Aldis",   "Wenlow", "Bettan", "Harwin", "Lorrel", "Nessa",
    "Pavlin", "Runhild", "Saskel", "Torvin", "Ulvane",  "Vessel", "Wilmot", "Xandel", "Yorrel", "Zellin"};
constexpr std::array<std::string_view, 20> kFronts = {
    "Ashen", "Brook", "Clay", "Dun",    "Elm",   "Fallow", "Gorse", "Heather", "Ivel",  "Jarn",
    "Kelm",  "Lin",   "Mühl", "Nettle", "Oster", "Pell",   "Quarn", "Reed",    "Sedge", "Thorn"};
constexpr std::array<std::string_view, 20> kMiddles = {"",   "en", "er", "el", "a",  "o",  "in",
                                                       "um", "is", "or", "y",  "al", "on", "ek",
                                                       "ul", "at", "as", "ig", "ow", "em"};
constexpr std::array<std::string_view, 10> kEnds = {"way",  "croft", "mere", "hold",  "dale",
                                                    "wick", "stead", "holm", "garth", "käll"};

}  // namespace

std::string customer_id(std::uint32_t customer) {
  constexpr std::uint32_t kFirst = 101;
  return fmt::format("C{}", kFirst + customer);
}

std::string order_id(std::size_t order) {
  constexpr std::size_t kFirst = 10'001;
  return fmt::format("A{}", kFirst + order);
}

std::string customer_name(std::uint32_t customer) {
  if (customer == kNamesake || customer == kNamesake + 30) customer -= 7;  // of the name of another
  // Steps through all combinations in an order that looks like none: both factors share no divisor.
  constexpr std::uint64_t kCombinations = 40ULL * 20 * 20 * 10;
  std::uint64_t place = customer * 60'007ULL % kCombinations;
  const auto take = [&](const auto& parts) {
    const std::string_view part = parts[place % parts.size()];
    place /= parts.size();
    return part;
  };
  const std::string_view first = take(kFirstNames);
  const std::string_view front = take(kFronts);
  const std::string_view end = take(kEnds);
  return fmt::format("{} {}{}{}", first, front, take(kMiddles), end);
}

}  // namespace pear::demo
