// Every kind of field of a document, with figures at the ends of ranges and outside, and with what
// is no figure in its place: what is read of it.
#pragma once

#include "sweeps/sweep.h"

#include <functional>

namespace tuvvo::test {

/// One place for each kind of field: entries of a list are of one kind.
inline std::vector<KeptJson::json_pointer> kindsOfFields(const KeptJson& whole) {
  std::vector<KeptJson::json_pointer> places;
  std::set<std::string> seen;
  const std::function<void(const KeptJson&, const KeptJson::json_pointer&, const std::string&)>
      walk = [&](const KeptJson& at, const KeptJson::json_pointer& here, const std::string& kind) {
        if (!kind.empty() && seen.insert(kind).second) places.push_back(here);
        if (at.is_object())
          for (const auto& [key, value] : at.items()) walk(value, here / key, kind + "/" + key);
        if (at.is_array())
          for (std::size_t i = 0; i < at.size(); ++i) walk(at[i], here / i, kind + "/#");
      };
  walk(whole, KeptJson::json_pointer(), {});
  return places;
}

/// @param read  gives what is read of a text
inline void changeFields(Sweep& sweep, const KeptJson& whole,
                         const std::function<KeptJson(const std::string&)>& read) {
  for (const auto& place : kindsOfFields(whole))
    for (const KeptJson& value :
         {KeptJson(-1'000'000'000'000), KeptJson(-1), KeptJson(0), KeptJson(0.5), KeptJson(1),
          KeptJson(2), KeptJson(2147483646), KeptJson(2147483647), KeptJson(2147483648),
          KeptJson(1'000'000'000'000), KeptJson(), KeptJson(true), KeptJson("x"), KeptJson::array(),
          KeptJson::object(), KeptJson::array({1, "x"})}) {
      KeptJson changed = whole;
      changed[place] = value;
      sweep.tell(place.to_string(), read(changed.dump()));
    }
}

} // namespace tuvvo::test
