// tuvvo-cli: the same core without a window.
#include "arguments.h"
#include "commands.h"

#include <cstdio>
#include <exception>

using namespace tuvvo::cli;

namespace {

void printHelp() {
  std::printf(
      "tuvvo-cli: find, cut, fit and print beats from recorded sound, without a window\n\n");
  for (const auto& command : commands())
    std::printf("  tuvvo-cli %s\n      %s\n", command.usage, command.about);
  std::printf("\nResults go to standard output, messages to standard error.\n"
              "Exit code 0: done. 1: could not do it. 2: wrong use.\n");
}

} // namespace

int main(int argc, char** argv) {
  const std::vector<std::string> words(argv + 1, argv + argc);
  if (words.empty()) {
    printHelp();
    return 2;
  }
  if (words[0] == "--help" || words[0] == "help") {
    printHelp();
    return 0;
  }
  if (words[0] == "--version") {
    std::printf("tuvvo-cli " TUVVO_VERSION "\n");
    return 0;
  }
  for (const auto& command : commands()) {
    if (words[0] != command.name) continue;
    const std::vector<std::string> rest(words.begin() + 1, words.end());
    for (const auto& word : rest)
      if (word == "--help") {
        std::printf("usage: tuvvo-cli %s\n%s\n", command.usage, command.about);
        return 0;
      }
    try {
      return command.run(rest);
    } catch (const WrongUse& wrong) {
      std::fprintf(stderr, "tuvvo-cli %s: %s.\nusage: tuvvo-cli %s\n", command.name,
                   wrong.message.c_str(), command.usage);
      return 2;
    } catch (const std::bad_alloc&) {
      std::fprintf(stderr, "tuvvo-cli %s: there is not enough memory for this.\n", command.name);
      return 1;
    } catch (const std::exception& trouble) {
      std::fprintf(stderr, "tuvvo-cli %s: could not be done (%s).\n", command.name, trouble.what());
      return 1;
    }
  }
  std::fprintf(stderr, "tuvvo-cli: \"%s\" is not a command. See tuvvo-cli --help.\n",
               words[0].c_str());
  return 2;
}
