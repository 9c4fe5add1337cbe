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

/// The sanitizers' build, which only looks for faults and is slow, takes every fourth value.
/// @param read  gives what is read of a text
inline void changeFields(Sweep& sweep, const KeptJson& whole,
                         const std::function<KeptJson(const std::string&)>& read) {
#ifdef __clang__
  constexpr std::size_t apart = 4;
#else
  constexpr std::size_t apart = 1;
#endif
  const KeptJson values = {-1'000'000'000'000,
                           -1,
                           0,
                           0.5,
                           1,
                           2,
                           2147483646,
                           2147483647,
                           2147483648,
                           1'000'000'000'000,
                           nullptr,
                           true,
                           "x",
                           KeptJson::array(),
                           KeptJson::object(),
                           KeptJson::array({1, "x"})};
  const auto places = kindsOfFields(whole);
  for (std::size_t i = 0; i < places.size(); ++i)
    for (std::size_t value = i % apart; value < values.size(); value += apart) {
      KeptJson changed = whole;
      changed[places[i]] = values[value];
      sweep.tell(places[i].to_string(), read(changed.dump()));
    }
}

} // namespace tuvvo::test
