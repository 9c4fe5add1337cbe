// How commands answer: results to standard output, messages to standard error.
#pragma once

#include "base/result.h"

#include <nlohmann/json.hpp>

#include <cstdio>

namespace tuvvo::cli {

using Json = nlohmann::ordered_json;

/// Says what went wrong. @returns the exit code: 2 where only --force is missing
inline int failed(const Error& error) {
  std::fprintf(stderr, "tuvvo-cli: %s%s\n", error.text().c_str(),
               error.replaces ? " With --force it is written over." : "");
  return error.replaces ? 2 : 1;
}

inline void warn(const std::string& where, const std::vector<std::string>& warnings) {
  for (const auto& warning : warnings)
    std::fprintf(stderr, "tuvvo-cli: %s: %s\n", shown(where).c_str(), shown(warning).c_str());
}

inline void show(const Json& json) {
  std::printf("%s\n", json.dump(1, ' ', false, Json::error_handler_t::replace).c_str());
}

} // namespace tuvvo::cli
