// tuvvo-cli parameters: everything that can be turned, by its id.
#include "arguments.h"
#include "commands.h"
#include "mix/processor.h"
#include "model/key_parameters.h"
#include "model/treatment.h"

#include <cstdio>
#include <nlohmann/json.hpp>

namespace tuvvo::cli {

namespace {

using Json = nlohmann::ordered_json;

void list(Json& out, const std::string& id, const Parameter& parameter, std::string_view unit) {
  Json one{{"id", id},
           {"name", parameter.name},
           {"unit", unit},
           {"least", parameter.least},
           {"most", parameter.most},
           {"standard", parameter.standard}};
  if (parameter.taper == Taper::Ratio) one["taper"] = "ratio";
  if (!parameter.words.empty()) one["words"] = parameter.words;
  const std::string after =
      unit.empty() || parameter.unit != Unit::None ? "" : " " + std::string(unit);
  one["range"] = written(parameter, parameter.least) + after + " to " +
                 written(parameter, parameter.most) + after + ", " +
                 written(parameter, parameter.standard) + after;
  out.push_back(std::move(one));
}

Json all() {
  Json out = Json::array();
  for (const auto& each : keyParameters())
    list(out, std::string(each.parameter.id), each.parameter, symbolOf(each.parameter.unit));
  for (std::size_t kind = 0; kind < kTreatments; ++kind) {
    const TreatmentType& type = typeOf(TreatmentKind(kind));
    for (const auto& figure : type.figures) {
      const std::vector<std::string_view> words(figure.words.begin(), figure.words.end());
      const Parameter parameter{
          figure.id,       figure.name, Unit::None,      figure.least, figure.most,
          figure.standard, figure.step, figure.decimals, Taper::Even,  words};
      list(out, "treatment." + std::string(type.id) + "." + figure.id, parameter, figure.unit);
    }
  }
  for (const ProcessorType* type : processorTypes())
    for (const auto& parameter : type->parameters)
      list(out, std::string(type->id) + "." + std::string(parameter.id), parameter,
           symbolOf(parameter.unit));
  return out;
}

} // namespace

int runParameters(const std::vector<std::string>& words) {
  const Arguments given(words, {}, {"--json"});
  if (!given.words().empty()) throw WrongUse{"it takes no words"};
  Json parameters = all();
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
