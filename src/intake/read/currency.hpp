// Signs and codes of currencies.
#pragma once

#include <string_view>

namespace pear::intake {

/// The code (ISO 4217) of a sign or code such as "€" or "EUR"; the sign itself if several currencies have it
/// ("kr"); empty if it is not a currency's.
[[nodiscard]] std::string_view currency_of(std::string_view sign);

}  // namespace pear::intake
