#include "formats/project_json.h"

#include "base/guard.h"
#include "base/tempo_map.h"
#include "formats/bus_json.h"
#include "formats/file_range.h"
#include "formats/json_names.h"
#include "formats/key_json.h"
#include "formats/pattern_json.h"
#include "formats/project_migrations.h"
#include "formats/source_json.h"
#include "model/bus_parameters.h"

#include <algorithm>
#include <set>

namespace tuvvo {

using namespace json_read;

namespace {

// ---- writing
// --------------------------------------------------------------------------------------

/// All but its chain.
Json head(const Part& part) {
  Json out{{"id", part.id},
           {"name", part.name},
           {"role", nameIn(kRows, part.role)},
           {"levelDb", part.bus.level.value},
           {"muted", part.muted},
           {"solo", part.solo}};
  if (part.quantiseStrength > 0) out["quantiseStrength"] = part.quantiseStrength;
  if (part.perBeat != 4) out["perBeat"] = part.perBeat;
  if (part.duck.by != 0)
    out["duck"] = {
        {"by", part.duck.by}, {"depthDb", part.duck.depth.value}, {"backMs", part.duck.back.value}};
  writeBus(out, part.bus);
  return out;
}

Json write(const Part& part) {
  Json out = head(part);
  if (!part.bus.chain.empty()) out["chain"] = chainToJson(part.bus);
  addRest(out, part.extra);
  return out;
}

Json write(const TempoMark& mark) {
  Json out{{"at", mark.change.at.value}, {"bpm", mark.change.tempo.value}};
  if (mark.change.ramp) out["ramp"] = true;
  addRest(out, mark.extra);
  return out;
}

Json write(const Section& section) {
  Json out{{"id", section.id},
           {"name", section.name},
           {"pattern", section.pattern},
           {"bars", section.bars},
           {"mutedParts", section.mutedParts}};
  addRest(out, section.extra);
  return out;
}

// ---- reading
// --------------------------------------------------------------------------------------

Part readPart(const Json& json, Reading& reading) {
  Fields f(json, reading);
  Part part;
  part.id = idFrom(f);
  part.name = f.text("name");
  part.role = f.choice<Row>("role", kRows);
  readBus(f, part.bus);
  part.muted = f.flag("muted");
  part.solo = f.flag("solo");
  part.quantiseStrength = f.number("quantiseStrength", 0, 1, 0);
  part.perBeat = int(f.integer("perBeat", 1, 32, 4));
  f.inside("duck", [&](Fields& duck) {
    part.duck.by = idFrom(duck, "by");
    static const FileRange depth(findFigure(duckParameters(), "duck-depth")),
        back(findFigure(duckParameters(), "duck-back"));
    part.duck.depth = Decibels(depth.in(duck, "depthDb"));
    part.duck.back = Milliseconds(back.in(duck, "backMs"));
  });
  part.extra = f.rest([&] { return head(part); });
  return part;
}

TempoMark readTempoMark(const Json& json, Reading& reading) {
  Fields f(json, reading);
  TempoMark mark;
  mark.change.at = Beats(f.integer("at", 1, kLatestMark.value, 1));
  mark.change.tempo = Bpm(f.number("bpm", kSlowestTempo.value, kFastestTempo.value, 90));
  mark.change.ramp = f.flag("ramp");
  mark.extra = f.rest([&] { return write(mark); });
  return mark;
}

Section readSection(const Json& json, Reading& reading) {
  Fields f(json, reading);
  Section section;
  section.id = idFrom(f);
  section.name = f.text("name");
  section.pattern = idFrom(f, "pattern");
  section.bars = int(f.integer("bars", 1, 256, 4));
  for (const auto& r : f.list("mutedParts", 1024))
    if (r.is_number_unsigned() && r.get<std::uint64_t>() <= kHighestId)
      section.mutedParts.push_back(Id(r.get<std::uint64_t>()));
  section.extra = f.rest([&] { return write(section); });
  return section;
}

/// All but the lists.
Json head(const Project& p, std::int64_t revision) {
  Json out{{"format", "tuvvo project"}, {"schema", kProjectSchema},
           {"revision", revision},      {"name", p.name},
           {"bpm", p.tempo.value},      {"meter", nameOf(p.meter)}};
  if (p.key) out["key"] = nameOf(*p.key);
  for (std::size_t row = 0; row < p.roles.size(); ++row)
    if (p.roles[row] != MuteSolo{})
      out["roles"][nameIn(kRows, Row(row))] = {{"muted", p.roles[row].muted},
                                               {"solo", p.roles[row].solo}};
  out["dismissedNotes"] = p.dismissedNotes;
  out["nextId"] = p.nextId;
  return out;
}

/// Of several things with one id, or without one, only the first can be meant by it.
class Ids {
public:
  void take(Id id, const char* what) {
    if (id == 0 || !m_seen.insert(id).second)
      throw Bad{std::string(what) + (id == 0 ? " without a number" : " with another's number")};
  }

private:
  std::set<Id> m_seen;
};

/// For things that are in their list already.
template <class Things> void takeOrDrop(Things& things, Ids& ids, const char* what) {
  try {
    ids.take(things.back().id, what);
  } catch (const Bad&) {
    things.pop_back();
    throw;
  }
}

/// What points at nothing has no place; it is kept for a version, or a day, that knows it.
class References {
public:
  References(Project& project, Reading& reading) : m_project(project), m_reading(reading) {
    for (const auto& key : project.keys) m_keys.insert(key.id);
    for (const auto& part : project.parts) m_parts.insert(part.id);
  }

  void mend() {
    for (const auto& pattern : m_project.patterns)
      for (const auto& lane : pattern->lanes)
        if (lane.feel.groove != 0 && !findGroove(m_project, lane.feel.groove))
          m_reading.met("a feel that is not there");
    for (auto& pattern : m_project.patterns)
      if (std::any_of(pattern->lanes.begin(), pattern->lanes.end(),
                      [&](const Lane& lane) { return dangles(lane); }))
        pattern = std::make_shared<Pattern>(mended(*pattern));
  }

private:
  [[nodiscard]] bool dangles(const Lane& lane) const {
    return !m_parts.contains(lane.part) ||
           std::any_of(lane.hits.begin(), lane.hits.end(),
                       [&](const Hit& hit) { return !m_keys.contains(hit.key); });
  }

  Extra withLost(const Extra& extra, const char* list, const Json& lost) {
    if (lost.empty()) return extra;
    for (std::size_t i = 0; i < lost.size(); ++i)
      m_reading.met(std::string("an entry of \"") + list + "\" for something that is not there");
    return withEntries(extra, list, lost);
  }

  Pattern mended(Pattern pattern) {
    Json lanes = Json::array();
    for (auto& lane : pattern.lanes) {
      Json hits = Json::array();
      if (m_parts.contains(lane.part))
        std::erase_if(lane.hits, [&](const Hit& hit) {
          if (m_keys.contains(hit.key)) return false;
          hits.push_back(toJson(hit));
          return true;
        });
      else
        lanes.push_back(toJson(lane));
      lane.extra = withLost(lane.extra, "hits", hits);
    }
    std::erase_if(pattern.lanes, [&](const Lane& lane) { return !m_parts.contains(lane.part); });
    pattern.extra = withLost(pattern.extra, "lanes", lanes);
    return pattern;
  }

  Project& m_project;
  Reading& m_reading;
  std::set<Id> m_keys, m_parts;
};

/// Ids are never used twice, whatever the file says about the next one.
void raiseNextId(Project& p, const Reading& reading) {
  p.nextId = std::max(p.nextId, Id(reading.highestId() + 1));
}

Project readProject(Fields& f, Reading& reading) {
  Project p;
  p.name = f.text("name", "Untitled");
  p.tempo = Bpm(f.number("bpm", kSlowestTempo.value, kFastestTempo.value, 90));
  p.meter = anyMeterIn(f);
  const std::string key = f.text("key");
  p.key = keyFromName(key);
  if (!p.key && !key.empty()) f.odd("key", "key");
  Ids sources, parts, keys, patterns, grooves, sections;
  f.entries("sources", 100'000, [&](const Json& s) {
    auto source = std::make_shared<Source>(sourceFromJson(s, reading));
    sources.take(source->id, "a sound");
    Ids ids;
    std::erase_if(source->cuts, [&](const Cut& cut) {
      try {
        ids.take(cut.id, "a cut");
        return false;
      } catch (const Bad& bad) {
        reading.met(bad.what);
        source->extra = withEntries(source->extra, "cuts", Json::array({toJson(cut)}));
        return true;
      }
    });
    p.sources.push_back(std::move(source));
  });
  f.inside("roles", [&](Fields& roles) {
    for (std::size_t row = 0; row < p.roles.size(); ++row)
      roles.inside(kRows[row], [&](Fields& role) {
        p.roles[row] = {role.flag("muted"), role.flag("solo")};
      });
  });
  readBuses(f, p);
  f.entries("parts", 1024, [&](const Json& part) {
    p.parts.push_back(readPart(part, reading));
    takeOrDrop(p.parts, parts, "a part");
  });
  f.entries("keys", 4096, [&](const Json& k) {
    p.keys.push_back(keyFromJson(k, reading));
    takeOrDrop(p.keys, keys, "a key");
  });
  f.entries("patterns", 4096, [&](const Json& pattern) {
    auto read = std::make_shared<Pattern>(patternFromJson(pattern, p.meter, reading));
    patterns.take(read->id, "a pattern");
    p.patterns.push_back(std::move(read));
  });
  f.entries("grooves", 4096, [&](const Json& groove) {
    p.grooves.push_back(grooveFromJson(groove, reading));
    takeOrDrop(p.grooves, grooves, "a feel");
  });
  f.entries("tempoMarks", kMostTempoMarks, [&](const Json& mark) {
    TempoMark read = readTempoMark(mark, reading);
    if (!p.tempoMarks.empty() && p.tempoMarks.back().change.at >= read.change.at)
      throw Bad{"a tempo that is not after the one before it"};
    p.tempoMarks.push_back(std::move(read));
  });
  f.entries("sections", 4096, [&](const Json& section) {
    Section read = readSection(section, reading);
    if (!findPattern(p, read.pattern)) // it holds no number that another section might have
      throw Bad{"an entry of \"sections\" for something that is not there"};
    p.sections.push_back(std::move(read));
    takeOrDrop(p.sections, sections, "a section");
  });
  for (const auto& h : f.list("dismissedNotes", 100'000))
    if (h.is_string()) p.dismissedNotes.insert(h.get<std::string>());
  p.nextId = Id(f.integer("nextId", 0, std::int64_t(kHighestId), 0));
  return p;
}

} // namespace

std::string projectToText(const Project& p, std::int64_t revision) {
  Json out = head(p, revision);
  const auto list = [&](const char* name, const auto& things, const auto& written) {
    Json all = Json::array();
    for (const auto& thing : things) all.push_back(written(thing));
    out[name] = std::move(all);
  };
  list("sources", p.sources, [](const SourcePtr& source) { return toJson(*source); });
  if (Json buses = busesToJson(p); !buses.empty()) out["buses"] = std::move(buses);
  list("parts", p.parts, [](const Part& part) { return write(part); });
  list("keys", p.keys, [](const Key& key) { return toJson(key); });
  list("patterns", p.patterns, [](const PatternPtr& pattern) { return toJson(*pattern); });
  if (!p.grooves.empty())
    list("grooves", p.grooves, [](const Groove& groove) { return toJson(groove); });
  if (!p.tempoMarks.empty())
    list("tempoMarks", p.tempoMarks, [](const TempoMark& mark) { return write(mark); });
  list("sections", p.sections, [](const Section& section) { return write(section); });
  addRest(out, p.extra);
  // Invalid UTF-8 in a name (old file systems) must not stop a save.
  return out.dump(1, ' ', false, Json::error_handler_t::replace) + "\n";
}

Result<ReadProject> projectFromText(const std::string& bytes, const std::string& where,
                                    JobContext* job) {
  return guarded("Reading the project", where, [&]() -> Result<ReadProject> {
    try {
      Json json = parse(bytes, job);
      Reading reading;
      reading.job = job;
      if (!json.is_object() || Fields(json, reading).text("format") != "tuvvo project")
        return Error{"This is not a Tuvvo project", where,
                     "Choose a folder whose name ends in .tuvvo."};
      bringProjectUp(json);
      ReadProject read;
      Fields f(json, reading);
      (void)f.find("format");
      read.schema = int(f.integer("schema", 1, 1'000'000, 1));
      read.revision = f.integer("revision", 0, kMostRevision, 0);
      read.project = readProject(f, reading);
      const std::int64_t revision = read.revision;
      // A newer version's number is not kept: what is written here is this version's.
      f.older("schema");
      f.older("revision");
      read.project.extra = f.rest([&] { return head(read.project, revision); });
      raiseNextId(read.project, reading);
      References(read.project, reading).mend();
      if (reading.any())
        read.warnings.push_back("Some of this project is not known to this version or points at "
                                "nothing. It is kept as it is, and is not played: " +
                                reading.text() + ".");
      return read;
    } catch (const Bad& bad) {
      return Error{"The project cannot be read: " + bad.what, where,
                   "Put back an older copy of it, or choose another."};
    }
  });
}

std::int64_t revisionIn(const std::string& bytes) {
  const auto revision = firstField(bytes, "revision");
  if (!revision || !revision->is_number_unsigned()) return 0;
  return std::int64_t(std::min<std::uint64_t>(revision->get<std::uint64_t>(), kMostRevision));
}

} // namespace tuvvo
