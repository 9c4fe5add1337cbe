// tuvvo-cli parameters: everything that can be turned, by its id.
#include "arguments.h"
#include "commands.h"
#include "mix/every_parameter.h"

#include <cstdio>
#include <nlohmann/json.hpp>

namespace tuvvo::cli {

namespace {

using Json = nlohmann::ordered_json;

void list(Json& out, const std::string& id, const Parameter& parameter) {
  Json one{{"id", id},
           {"name", parameter.name},
           {"unit", symbolOf(parameter.unit)},
           {"least", parameter.least},
           {"most", parameter.most},
           {"standard", parameter.standard}};
  if (!parameter.about.empty()) one["about"] = parameter.about;
  if (parameter.taper == Taper::Ratio) one["taper"] = "ratio";
  if (!parameter.words.empty()) one["words"] = parameter.words;
  one["range"] = written(parameter, parameter.least) + " to " + written(parameter, parameter.most) +
                 ", " + written(parameter, parameter.standard);
  out.push_back(std::move(one));
}

} // namespace

int runParameters(const std::vector<std::string>& words) {
  const Arguments given(words, {}, {"--json"});
  if (!given.words().empty()) throw WrongUse{"it takes no words"};
  Json parameters = Json::array();
  for (const auto& each : everyParameter()) list(parameters, each.id, *each.parameter);
  if (given.has("--json")) {
    for (auto& one : parameters) one.erase("range");
    std::printf("%s\n", parameters.dump(1).c_str());
    return 0;
  }
  for (const auto& one : parameters)
    std::printf("%-32s %-20s %s\n", one["id"].get<std::string>().c_str(),
                one["name"].get<std::string>().c_str(), one["range"].get<std::string>().c_str());
  return 0;
}

} // namespace tuvvo::cli
