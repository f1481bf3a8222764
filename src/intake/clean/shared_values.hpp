// Values that should belong to one customer but belong to several.
#pragma once

#include <string_view>
#include <vector>

#include "daybook/daybook.hpp"
#include "intake/import.hpp"

namespace pear::intake {

constexpr std::string_view kNameColumns[] = {"customer_name", "name"};
constexpr std::string_view kEmailColumns[] = {"email", "e_mail", "mail", "email_address", "e_mail_address"};

/// The texts of the daybook's customer columns among `names` that more than one customer has, ignoring case,
/// in order of the texts.
template <std::size_t N>
[[nodiscard]] std::vector<SharedValue> shared_values(const daybook::Daybook& daybook,
                                                     const std::string_view (&names)[N]);

[[nodiscard]] std::vector<SharedValue> shared_values_of(const daybook::Daybook& daybook,
                                                        std::string_view name);

/// Customer ids that differ only in upper and lower case, or in white space at the ends: "C1" and "c1 ".
[[nodiscard]] std::vector<SharedValue> similar_ids(const daybook::Daybook& daybook);

template <std::size_t N>
std::vector<SharedValue> shared_values(const daybook::Daybook& daybook, const std::string_view (&names)[N]) {
  std::vector<SharedValue> all;
  for (const std::string_view name : names) {
    for (SharedValue& shared : shared_values_of(daybook, name)) all.push_back(std::move(shared));
  }
  return all;
}

}  // namespace pear::intake
