#include "formats/project_json.h"

#include "base/tempo_map.h"
#include "formats/json_names.h"
#include "formats/key_json.h"
#include "formats/source_json.h"

#include <algorithm>

namespace tuvvo {

using namespace json_read;

namespace {

constexpr std::int64_t kMostTicks = kTicksPerBeat * 7 * kMostBars;

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
  addUnknown(out, part.extra);
  return out;
}

Json write(const Pattern& pattern) {
  Json out{{"id", pattern.id}, {"name", pattern.name}, {"bars", pattern.bars}};
  out["lanes"] = Json::array();
  for (const auto& lane : pattern.lanes) {
    Json written{{"part", lane.part},
                 {"swing", lane.swing},
                 {"swingPairs", lane.swingPairs},
                 {"leanMs", lane.lean.value}};
    written["pins"] = Json::array();
    for (const auto& pin : lane.pins) {
      Json p{{"at", pin.at.value}, {"key", pin.key}, {"velocity", pin.velocity}};
      if (pin.lean.value != 0) p["leanMs"] = pin.lean.value;
      if (pin.tune.value != 0) p["tuneSt"] = pin.tune.value;
      if (pin.length.value != 0) p["length"] = pin.length.value;
      if (pin.start != 0) p["start"] = pin.start;
      if (pin.bright != 0) p["brightOctaves"] = pin.bright;
      written["pins"].push_back(std::move(p));
    }
    out["lanes"].push_back(std::move(written));
  }
  addUnknown(out, pattern.extra);
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
  part.perBeat = int(integer(json, "perBeat", 1, 8, 4));
  part.extra =
      unknownFields(json, {"id", "name", "role", "levelDb", "muted", "solo", "pull", "perBeat"});
  return part;
}

Pattern readPattern(const Json& json) {
  Pattern pattern;
  pattern.id = idFrom(json);
  pattern.name = text(json, "name");
  pattern.bars = int(integer(json, "bars", 1, kMostBars, 2));
  for (const auto& l : list(json, "lanes", 1024)) {
    Lane lane;
    lane.part = idFrom(l, "part");
    lane.swing = number(l, "swing", 50, 80, 50);
    lane.swingPairs = int(integer(l, "swingPairs", 1, 8, 2));
    lane.lean = Milliseconds(number(l, "leanMs", -200, 200, 0));
    for (const auto& p : list(l, "pins", 100'000)) {
      Pin pin;
      pin.at = Beats(integer(p, "at", 0, kMostTicks, 0));
      pin.key = idFrom(p, "key");
      pin.velocity = number(p, "velocity", 0.02, 1, 0.8);
      pin.lean = Milliseconds(number(p, "leanMs", -200, 200, 0));
      pin.tune = Semitones(number(p, "tuneSt", -48, 48, 0));
      pin.length = Beats(integer(p, "length", 0, kMostTicks, 0));
      pin.start = number(p, "start", 0, kLatestStart, 0);
      pin.bright = number(p, "brightOctaves", -10, 10, 0);
      lane.pins.push_back(pin);
    }
    std::stable_sort(lane.pins.begin(), lane.pins.end(),
                     [](const Pin& a, const Pin& b) { return a.at < b.at; });
    pattern.lanes.push_back(std::move(lane));
  }
  pattern.extra = unknownFields(json, {"id", "name", "bars", "lanes"});
  return pattern;
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
    for (auto& lane : copy->lanes)
      lost += std::erase_if(lane.pins, [&](const Pin& pin) { return !findKey(p, pin.key); });
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
           {"bpm", p.tempo.value},      {"beatsPerBar", p.beatsPerBar}};
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
  for (const auto& pattern : p.patterns) out["patterns"].push_back(write(*pattern));
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
    p.beatsPerBar = int(integer(json, "beatsPerBar", 2, 7, 4));
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
      p.patterns.push_back(std::make_shared<Pattern>(readPattern(s)));
    for (const auto& s : list(json, "sections", 4096)) p.sections.push_back(readSection(s));
    for (const auto& h : list(json, "hushed", 100'000))
      if (h.is_string()) p.hushed.insert(h.get<std::string>());
    p.nextId = idFrom(json, "nextId");
    p.extra = unknownFields(json, {"format", "schema", "revision", "name", "bpm", "beatsPerBar",
                                   "key", "sources", "roles", "parts", "keys", "patterns",
                                   "sections", "hushed", "nextId"});
    mendReferences(read);
    return read;
  } catch (const Bad& bad) {
    return Error{"The project cannot be read: " + bad.what, where,
                 "An earlier state is in the folder's history; copy it over project.json."};
  }
}

} // namespace tuvvo
