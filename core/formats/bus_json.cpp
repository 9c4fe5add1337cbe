#include "formats/bus_json.h"

#include "formats/file_range.h"
#include "formats/json_names.h"
#include "mix/processor.h"
#include "model/bus_parameters.h"

#include <algorithm>

namespace tuvvo::json_read {

namespace {

constexpr std::size_t kMostFigures = 64; ///< of one processor

FileRange rangeOf(const char* id, double per = 1) {
  return FileRange(findFigure(busParameters(), id), per);
}

Json write(const ProcessorSettings& processor) {
  Json out{{"id", processor.id}, {"kind", processor.kind}};
  if (!processor.on) out["on"] = false;
  if (!processor.figures.empty()) out["figures"] = processor.figures;
  addRest(out, processor.extra);
  return out;
}

ProcessorSettings readProcessor(const Json& json, Reading& reading) {
  Fields f(json, reading);
  ProcessorSettings processor;
  processor.id = idFrom(f);
  processor.kind = f.text("kind", {}, 60);
  if (processor.id == 0 || processor.kind.empty()) throw Bad{"a processor without number or kind"};
  if (!findProcessorType(processor.kind)) reading.met("the processor \"" + processor.kind + "\"");
  processor.on = f.flag("on", true);
  if (const Json* figures = f.find("figures"); figures && figures->is_object())
    for (const auto& [id, value] : figures->items())
      if (value.is_number() && processor.figures.size() < kMostFigures)
        processor.figures[id] = value.get<double>();
  f.mayDiffer(); // figures that are none are kept beside the others
  processor.extra = f.rest([&] { return write(processor); });
  return processor;
}

/// Every bus but those of parts, by the name it has in the file.
template <class Buses, class Do> void eachBus(Buses& project, const Do& act) {
  for (std::size_t row = 0; row < project.rows.size(); ++row)
    act(std::string(kRows[row]), project.rows[row]);
  for (std::size_t send = 0; send < project.sends.size(); ++send)
    act("send " + std::to_string(send + 1), project.sends[send]);
  act(std::string("master"), project.master);
}

Json write(const std::string& name, const BusSettings& bus) {
  Json out{{"of", name}};
  if (bus.level.value != 0) out["levelDb"] = bus.level.value;
  writeBus(out, bus);
  return out;
}

} // namespace

void writeBus(Json& out, const BusSettings& bus) {
  if (bus.pan != 0) out["pan"] = bus.pan;
  if (bus.width != 1) out["width"] = bus.width;
  if (std::any_of(bus.sends.begin(), bus.sends.end(),
                  [](Decibels send) { return send > kNoSend; })) {
    Json sends = Json::array();
    for (const Decibels send : bus.sends) sends.push_back(send.value);
    out["sendsDb"] = std::move(sends);
  }
}

Json chainToJson(const BusSettings& bus) {
  Json chain = Json::array();
  for (const auto& processor : bus.chain) chain.push_back(write(processor));
  return chain;
}

void readBus(Fields& f, BusSettings& bus) {
  static const FileRange level = rangeOf("level"), pan = rangeOf("pan", 100),
                         width = rangeOf("width", 100), amount = rangeOf("send-1");
  bus.level = Decibels(level.in(f, "levelDb"));
  bus.pan = pan.in(f, "pan");
  bus.width = width.in(f, "width");
  if (f.find("sendsDb")) {
    std::size_t send = 0;
    for (const auto& given : f.list("sendsDb", 64))
      if (send < kSends)
        bus.sends[send++] = Decibels(
            given.is_number() ? std::clamp(given.get<double>(), amount.least(), amount.most())
                              : kNoSend.value);
  }
  f.entries("chain", kMostProcessors, [&](const Json& json) {
    ProcessorSettings read = readProcessor(json, f.reading());
    for (const auto& other : bus.chain)
      if (other.id == read.id) throw Bad{"a processor with another's number"};
    bus.chain.push_back(std::move(read));
  });
}

Json busesToJson(const Project& project) {
  Json out = Json::array();
  eachBus(project, [&](const std::string& name, const BusSettings& bus) {
    if (bus == BusSettings{}) return;
    Json one = write(name, bus);
    if (!bus.chain.empty()) one["chain"] = chainToJson(bus);
    addRest(one, bus.extra);
    out.push_back(std::move(one));
  });
  return out;
}

void readBuses(Fields& project, Project& into) {
  std::vector<std::string> taken;
  project.entries("buses", 64, [&](const Json& json) {
    Fields f(json, project.reading());
    const std::string name = f.text("of", {}, 60);
    BusSettings* found = nullptr;
    eachBus(into, [&](const std::string& own, BusSettings& bus) {
      if (own == name) found = &bus;
    });
    if (!found) throw Bad{"the bus \"" + name + "\""};
    if (std::find(taken.begin(), taken.end(), name) != taken.end())
      throw Bad{"a bus that is there twice"};
    taken.push_back(name);
    readBus(f, *found);
    found->extra = f.rest([&] { return write(name, *found); });
  });
}

} // namespace tuvvo::json_read
