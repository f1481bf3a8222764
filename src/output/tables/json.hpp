// JSON of our own and of others.
#pragma once

#include <string>
#include <string_view>

#include <nlohmann/json.hpp>

namespace pear::output {

using Json = nlohmann::ordered_json;

/// The value of a text; discarded (see Json::is_discarded) if it is not JSON, or is nested more than 100
/// levels deep.
[[nodiscard]] Json parse_json(std::string_view text);

/// The text that an object has under this key; empty if it has none, or the value is not an object.
[[nodiscard]] std::string text_of(const Json& object, const char* key);

/// Indented by two spaces, and with a line feed at the end. Bytes that are not UTF-8 become U+FFFD.
[[nodiscard]] std::string to_text(const Json& value);

}  // namespace pear::output
