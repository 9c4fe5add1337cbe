#include "mix/graph_plan.h"

#include <algorithm>
#include <set>

namespace tuvvo {

namespace {

void take(BusPlan& plan, const BusSettings& settings) {
  plan.gain = float(gainOf(settings.level));
  plan.pan = float(settings.pan);
  plan.width = float(settings.width);
  for (std::size_t i = 0; i < kSends; ++i)
    plan.sends[i] = settings.sends[i] > kNoSend ? float(gainOf(settings.sends[i])) : 0.0f;
  for (const auto& processor : settings.chain) {
    const ProcessorType* type = findProcessorType(processor.kind);
    const bool twice = std::any_of(plan.chain.begin(), plan.chain.end(),
                                   [&](const auto& other) { return other.id == processor.id; });
    if (!type || twice || plan.chain.size() >= kMostProcessors) continue;
    ProcessorPlan one{processor.id, type, processor.on, {}};
    for (const auto& parameter : type->parameters) {
      const auto found = processor.figures.find(std::string(parameter.id));
      one.values.push_back(found == processor.figures.end() ? parameter.standard
                                                            : clamped(parameter, found->second));
    }
    plan.chain.push_back(std::move(one));
  }
}

/// Parts of which anything sounds although something is solo.
std::set<Id> partsBeside(const Project& project) {
  std::set<Id> out;
  for (const auto& key : project.keys)
    if (soundsOnItsBus(project, key, true)) out.insert(key.part);
  return out;
}

} // namespace

int GraphPlan::find(BusPlan::Kind kind, Id which) const {
  // Parts come first, in any order; the others are few.
  for (std::size_t i = buses.size(); i-- > 0;)
    if (buses[i].kind == kind && buses[i].which == which) return int(i);
  return -1;
}

int GraphPlan::busOf(Id part, Row row) const {
  const int found = part == 0 ? -1 : find(BusPlan::Kind::Part, part);
  if (found >= 0) return found;
  const int whole = find(BusPlan::Kind::Row, Id(row));
  return whole >= 0 ? whole : int(buses.size()) - 1;
}

GraphPlan graphPlanOf(const Project& project, Hertz rate, const GraphOptions& options) {
  GraphPlan plan;
  plan.buses.clear();
  const int parts = int(project.parts.size()), master = parts + kRowCount + int(kSends);
  const bool solo = anySolo(project);
  const auto beside = solo ? partsBeside(project) : std::set<Id>{};
  for (const auto& part : project.parts) {
    BusPlan bus;
    bus.kind = BusPlan::Kind::Part;
    bus.which = part.id;
    bus.parent = parts + int(part.role);
    take(bus, part.bus);
    bus.muted = part.muted || (solo && !beside.contains(part.id));
    bus.closed = options.onlyPart != 0 && options.onlyPart != part.id;
    bus.duckBy = part.duck.by;
    if (part.duck.by != 0)
      bus.duck = {true, float(gainOf(-part.duck.depth)),
                  float(double(toFrames(part.duck.back, rate).value) / 3)};
    plan.buses.push_back(std::move(bus));
  }
  for (int row = 0; row < kRowCount; ++row) {
    BusPlan bus;
    bus.kind = BusPlan::Kind::Row;
    bus.which = Id(row);
    bus.parent = master;
    take(bus, project.rows[std::size_t(row)]);
    bus.muted = project.roles[std::size_t(row)].muted;
    bus.closed = options.onlyPart != 0; // for keys that write on no part
    plan.buses.push_back(std::move(bus));
  }
  for (std::size_t send = 0; send < kSends; ++send) {
    BusPlan bus;
    bus.kind = BusPlan::Kind::Send;
    bus.which = Id(send);
    bus.parent = master;
    take(bus, project.sends[send]);
    bus.sends = {}; // they do not feed each other
    plan.buses.push_back(std::move(bus));
  }
  BusPlan last;
  take(last, project.master);
  last.sends = {};
  plan.buses.push_back(std::move(last));
  return plan;
}

} // namespace tuvvo
