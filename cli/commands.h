// The commands of tuvvo-cli. Each returns its exit code: 0 done, 1 could not do it. Wrong use
// throws.
#pragma once

#include <string>
#include <vector>

namespace tuvvo::cli {

struct Command {
  const char* name;
  const char* usage;
  const char* about;
  int (*run)(const std::vector<std::string>& words);
};

[[nodiscard]] const std::vector<Command>& commands();

int runListen(const std::vector<std::string>& words);     // listen_command.cpp
int runCrate(const std::vector<std::string>& words);      // crate_command.cpp
int runParameters(const std::vector<std::string>& words); // parameters_command.cpp

} // namespace tuvvo::cli
