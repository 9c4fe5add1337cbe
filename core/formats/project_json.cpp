#include "formats/project_json.h"

#include "base/tempo_map.h"
#include "formats/json_names.h"
#include "formats/key_json.h"
#include "formats/pattern_json.h"
#include "formats/source_json.h"

#include <algorithm>

namespace tuvvo {

using namespace json_read;

namespace {

// ---- writing
// --------------------------------------------------------------------------------------

Json write(const Part& part) {
  Json out{{"id", part.id},
           {"name", part.name},
           {"role", nameIn(kRows, part.role)},
           {"levelDb", part.level.value},
           {"muted", part.muted},
           {"solo", part.solo}};
  if (part.pull > 0) out["pull"] = part.pull;
  if (part.perBeat != 4) out["perBeat"] = part.perBeat;
  if (part.duck.by != 0)
    out["duck"] = {
        {"by", part.duck.by}, {"depthDb", part.duck.depth.value}, {"backMs", part.duck.back.value}};
  addUnknown(out, part.extra);
  return out;
}

Json write(const Section& section) {
  Json out{{"id", section.id},
           {"name", section.name},
           {"pattern", section.pattern},
           {"bars", section.bars},
           {"resting", section.resting}};
  addUnknown(out, section.extra);
  return out;
}

// ---- reading
// --------------------------------------------------------------------------------------

Part readPart(const Json& json) {
  Part part;
  part.id = idFrom(json);
  part.name = text(json, "name");
  part.role = choice<Row>(json, "role", kRows);
  part.level = Decibels(number(json, "levelDb", -60, 12, 0));
  part.muted = flag(json, "muted");
  part.solo = flag(json, "solo");
  part.pull = number(json, "pull", 0, 1, 0);
  part.perBeat = int(integer(json, "perBeat", 1, 32, 4));
  if (const Json* duck = find(json, "duck")) {
    part.duck.by = idFrom(*duck, "by");
    part.duck.depth = Decibels(number(*duck, "depthDb", 0, 40, 9));
    part.duck.back = Milliseconds(number(*duck, "backMs", 10, 2000, 140));
  }
  part.extra = unknownFields(
      json, {"id", "name", "role", "levelDb", "muted", "solo", "pull", "perBeat", "duck"});
  return part;
}

Section readSection(const Json& json) {
  Section section;
  section.id = idFrom(json);
  section.name = text(json, "name");
  section.pattern = idFrom(json, "pattern");
  section.bars = int(integer(json, "bars", 1, 256, 4));
  for (const auto& r : list(json, "resting", 1024))
    if (r.is_number_unsigned()) section.resting.push_back(Id(r.get<std::uint64_t>() & 0xffffffff));
  section.extra = unknownFields(json, {"id", "name", "pattern", "bars", "resting"});
  return section;
}

/// Ids are never used twice, whatever the file says about the next one.
void raiseNextId(Project& p) {
  Id highest = 0;
  const auto seen = [&](Id id) { highest = std::max(highest, id); };
  for (const auto& source : p.sources) {
    seen(source->id);
    for (const auto& cut : source->cuts) seen(cut.id);
  }
  for (const auto& key : p.keys) seen(key.id);
  for (const auto& part : p.parts) seen(part.id);
  for (const auto& pattern : p.patterns) seen(pattern->id);
  for (const auto& groove : p.grooves) seen(groove.id);
  for (const auto& section : p.sections) seen(section.id);
  p.nextId = std::max(p.nextId, highest + 1);
}

/// What points at nothing is taken out, and said.
void mendReferences(ReadProject& read) {
  Project& p = read.project;
  raiseNextId(p);
  std::size_t lost = 0;
  for (auto& pattern : p.patterns) {
    auto copy = std::make_shared<Pattern>(*pattern);
    for (auto& lane : copy->lanes) {
      lost += std::erase_if(lane.pins, [&](const Pin& pin) { return !findKey(p, pin.key); });
      if (lane.feel.groove != 0 && !findGroove(p, lane.feel.groove)) {
        lane.feel.groove = 0;
        ++lost;
      }
    }
    lost += std::erase_if(copy->lanes, [&](const Lane& lane) { return !findPart(p, lane.part); });
    pattern = std::move(copy);
  }
  lost += std::erase_if(p.sections, [&](const Section& s) { return !findPattern(p, s.pattern); });
  if (lost > 0)
    read.warnings.push_back(std::to_string(lost) +
                            " entries pointed at something that is not there and were left out.");
}

} // namespace

std::string projectToText(const Project& p, std::int64_t revision) {
  Json out{{"format", "tuvvo project"}, {"schema", kProjectSchema},
           {"revision", revision},      {"name", p.name},
           {"bpm", p.tempo.value},      {"meter", nameOf(p.meter)}};
  if (p.key) out["key"] = nameOf(*p.key);
  out["sources"] = Json::array();
  for (const auto& source : p.sources) out["sources"].push_back(toJson(*source));
  for (std::size_t row = 0; row < p.roles.size(); ++row)
    if (p.roles[row] != Quiet{})
      out["roles"][nameIn(kRows, Row(row))] = {{"muted", p.roles[row].muted},
                                               {"solo", p.roles[row].solo}};
  out["parts"] = Json::array();
  for (const auto& part : p.parts) out["parts"].push_back(write(part));
  out["keys"] = Json::array();
  for (const auto& key : p.keys) out["keys"].push_back(toJson(key));
  out["patterns"] = Json::array();
  for (const auto& pattern : p.patterns) out["patterns"].push_back(toJson(*pattern));
  for (const auto& groove : p.grooves) out["grooves"].push_back(toJson(groove));
  out["sections"] = Json::array();
  for (const auto& section : p.sections) out["sections"].push_back(write(section));
  out["hushed"] = p.hushed;
  out["nextId"] = p.nextId;
  addUnknown(out, p.extra);
  // Invalid UTF-8 in a name (old file systems) must not stop a save.
  return out.dump(1, ' ', false, Json::error_handler_t::replace) + "\n";
}

Result<ReadProject> projectFromText(const std::string& bytes, const std::string& where) {
  try {
    const Json json = parse(bytes);
    if (!json.is_object() || text(json, "format") != "tuvvo project")
      return Error{"This is not a Tuvvo project", where,
                   "Choose a folder whose name ends in .tuvvo."};
    ReadProject read;
    read.schema = int(integer(json, "schema", 1, 1'000'000, 1));
    read.revision = integer(json, "revision", 0, std::int64_t(1) << 52, 0);
    Project& p = read.project;
    p.name = text(json, "name", "Untitled");
    p.tempo = Bpm(number(json, "bpm", 20, 400, 90));
    p.meter = meterIn(json);
    p.key = keyFromName(text(json, "key"));
    for (const auto& s : list(json, "sources", 100'000))
      p.sources.push_back(std::make_shared<Source>(sourceFromJson(s)));
    if (const Json* roles = find(json, "roles"))
      for (std::size_t row = 0; row < p.roles.size(); ++row)
        if (const Json* role = find(*roles, kRows[row]))
          p.roles[row] = {flag(*role, "muted"), flag(*role, "solo")};
    for (const auto& s : list(json, "parts", 1024)) p.parts.push_back(readPart(s));
    for (const auto& k : list(json, "keys", 4096)) p.keys.push_back(keyFromJson(k));
    for (const auto& s : list(json, "patterns", 4096))
      p.patterns.push_back(std::make_shared<Pattern>(patternFromJson(s, p.meter)));
    for (const auto& g : list(json, "grooves", 4096)) p.grooves.push_back(grooveFromJson(g));
    for (const auto& s : list(json, "sections", 4096)) p.sections.push_back(readSection(s));
    for (const auto& h : list(json, "hushed", 100'000))
      if (h.is_string()) p.hushed.insert(h.get<std::string>());
    p.nextId = idFrom(json, "nextId");
    p.extra = unknownFields(json, {"format", "schema", "revision", "name", "bpm", "beatsPerBar",
                                   "meter", "key", "sources", "roles", "parts", "keys", "patterns",
                                   "grooves", "sections", "hushed", "nextId"});
    mendReferences(read);
    return read;
  } catch (const Bad& bad) {
    return Error{"The project cannot be read: " + bad.what, where,
                 "An earlier state is in the folder's history; copy it over project.json."};
  }
}

} // namespace tuvvo
