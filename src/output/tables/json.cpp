#include "output/tables/json.hpp"

namespace pear::output {

Json parse_json(std::string_view text) {
  constexpr int kDeepest = 100;  // writing it again uses the stack
  bool is_too_deep = false;
  const auto watch = [&](int depth, Json::parse_event_t /*event*/, Json& /*value*/) {
    is_too_deep = is_too_deep || depth > kDeepest;
    return !is_too_deep;
  };
  Json value = Json::parse(text, watch, false);
  return is_too_deep ? Json(Json::value_t::discarded) : value;
}

std::string text_of(const Json& object, const char* key) {
  if (!object.is_object()) return "";
  const auto found = object.find(key);
  return found != object.end() && found->is_string() ? found->get<std::string>() : "";
}

std::string to_text(const Json& value) {
  return value.dump(2, ' ', false, Json::error_handler_t::replace) + "\n";
}

}  // namespace pear::output
