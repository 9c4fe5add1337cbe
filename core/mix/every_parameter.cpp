#include "mix/every_parameter.h"

#include "mix/processor.h"
#include "model/bus_parameters.h"
#include "model/key_parameters.h"
#include "model/pattern_parameters.h"
#include "model/treatment.h"

namespace tuvvo {

std::vector<NamedParameter> everyParameter() {
  std::vector<NamedParameter> out;
  const auto add = [&](const std::string& before, const Parameter& parameter) {
    out.push_back({before + std::string(parameter.id), &parameter});
  };
  for (const auto& each : keyParameters()) add("", each.parameter);
  for (const TreatmentType& type : treatmentTypes())
    for (const auto& each : type.parameters)
      add("treatment." + std::string(type.id) + ".", each.parameter);
  for (const auto& each : hitParameters()) add("", each.parameter);
  for (const auto& each : feelParameters()) add("", each.parameter);
  for (const std::string bus : {"part.", "row.", "send.", "master."})
    for (const auto& each : busParameters())
      if (!each.parameter.id.starts_with("send") || bus == "part." || bus == "row.")
        add(bus, each.parameter);
  for (const auto& each : duckParameters()) add("part.", each.parameter);
  for (const ProcessorType* type : processorTypes())
    for (const auto& parameter : type->parameters) add(std::string(type->id) + ".", parameter);
  return out;
}

} // namespace tuvvo
