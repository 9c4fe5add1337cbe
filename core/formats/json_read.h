// Reading fields of JSON that nobody vouches for. Inner part of formats/.
#pragma once

#include <nlohmann/json.hpp>

#include <algorithm>
#include <cmath>
#include <set>
#include <string>

namespace tuvvo::json_read {

using Json = nlohmann::ordered_json;

/// Thrown inside formats/ only, and turned into an Error at its border.
struct Bad {
  std::string what;
};

inline const Json* find(const Json& object, const char* name) {
  if (!object.is_object()) throw Bad{"an entry is not what it should be"};
  const auto at = object.find(name);
  return at == object.end() || at->is_null() ? nullptr : &*at;
}

/// A finite number brought into a range; the fallback when it is not there.
inline double number(const Json& object, const char* name, double low, double high,
                     double fallback) {
  const Json* value = find(object, name);
  if (!value) return fallback;
  if (!value->is_number()) throw Bad{std::string("\"") + name + "\" is not a number"};
  const double v = value->get<double>();
  if (!std::isfinite(v)) throw Bad{std::string("\"") + name + "\" is not a number"};
  return std::clamp(v, low, high);
}

inline std::int64_t integer(const Json& object, const char* name, std::int64_t low,
                            std::int64_t high, std::int64_t fallback) {
  const Json* value = find(object, name);
  if (!value) return fallback;
  if (!value->is_number()) throw Bad{std::string("\"") + name + "\" is not a number"};
  if (value->is_number_float())
    return std::int64_t(std::clamp(value->get<double>(), double(low), double(high)));
  if (value->is_number_unsigned())
    return std::int64_t(std::min<std::uint64_t>(value->get<std::uint64_t>(),
                                                std::uint64_t(std::max<std::int64_t>(0, high))));
  return std::clamp(value->get<std::int64_t>(), low, high);
}

inline std::string text(const Json& object, const char* name, std::string fallback = {},
                        std::size_t longest = 4096) {
  const Json* value = find(object, name);
  if (!value) return fallback;
  if (!value->is_string()) throw Bad{std::string("\"") + name + "\" is not a text"};
  return value->get<std::string>().substr(0, longest);
}

inline bool flag(const Json& object, const char* name, bool fallback = false) {
  const Json* value = find(object, name);
  if (!value) return fallback;
  if (!value->is_boolean()) throw Bad{std::string("\"") + name + "\" is not true or false"};
  return value->get<bool>();
}

/// An array, empty when it is not there.
inline const Json& list(const Json& object, const char* name, std::size_t most) {
  static const Json none = Json::array();
  const Json* value = find(object, name);
  if (!value) return none;
  if (!value->is_array()) throw Bad{std::string("\"") + name + "\" is not a list"};
  if (value->size() > most) throw Bad{std::string("\"") + name + "\" is longer than it can be"};
  return *value;
}

/// What stands in an object under other names than the known ones, as text; empty for nothing.
inline std::string unknownFields(const Json& object, const std::set<std::string>& known) {
  Json rest = Json::object();
  for (const auto& [name, value] : object.items())
    if (!known.contains(name)) rest[name] = value;
  return rest.empty() ? std::string() : rest.dump();
}

/// Puts such fields back.
inline void addUnknown(Json& object, const std::string& extra) {
  if (extra.empty()) return;
  const Json rest = Json::parse(extra, nullptr, false);
  if (rest.is_object())
    for (const auto& [name, value] : rest.items())
      if (!object.contains(name)) object[name] = value;
}

/// Parses text with a bound on its depth.
inline Json parse(const std::string& bytes) {
  const auto shallow = [](int depth, Json::parse_event_t, Json&) {
    if (depth > 32) throw Bad{"it is nested too deeply"};
    return true;
  };
  Json json = Json::parse(bytes, shallow, false);
  if (json.is_discarded()) throw Bad{"it is not JSON, or ends too early"};
  return json;
}

} // namespace tuvvo::json_read
