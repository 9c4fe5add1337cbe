#include "formats/project_json.h"

#include "base/tempo_map.h"
#include "formats/json_read.h"
#include "formats/papers_json.h"

#include <algorithm>

namespace tuvvo {

using namespace json_read;

namespace {

// Names as they stand in the file; the order is that of the enumerations.
constexpr std::array kWays{"hits", "beats", "bars", "equal", "sections", "chords", "hand"};
constexpr std::array kCutEnds{"next", "decay"};
constexpr std::array kMethods{"repitch", "stretch", "respace"};
constexpr std::array kStraightenBy{"bars", "beats", "hits"};
constexpr std::array kMaterials{"by itself", "tones", "hits"};
constexpr std::array kRows{"cuts", "air", "body", "floor"};
constexpr std::int64_t kMostFrames = std::int64_t(1) << 40;
constexpr std::int64_t kMostTicks = kTicksPerBeat * 7 * kMostBars;

template <class Enum, std::size_t N>
Enum choice(const Json& object, const char* name, const std::array<const char*, N>& names) {
  const std::string given = text(object, name, names[0]);
  for (std::size_t i = 0; i < N; ++i)
    if (given == names[i]) return Enum(i);
  throw Bad{"\"" + given + "\" is no value for \"" + name + "\""};
}

template <class Enum, std::size_t N>
const char* nameIn(const std::array<const char*, N>& names, Enum value) {
  return names[std::size_t(value)];
}

Id idFrom(const Json& object, const char* name = "id") {
  return Id(integer(object, name, 0, 0xfffffffe, 0));
}

// ---- writing
// --------------------------------------------------------------------------------------

Json write(const Cut& cut) {
  Json out{{"id", cut.id}, {"start", cut.start.value}, {"end", cut.end.value}};
  if (cut.byHand) out["byHand"] = true;
  out["fadeInMs"] = cut.fadeIn.value;
  out["fadeOutMs"] = cut.fadeOut.value;
  return out;
}

Json write(const CutSettings& settings) {
  Json out{{"way", nameIn(kWays, settings.way)},
           {"sensitivity", settings.sensitivity},
           {"perBeat", settings.perBeat},
           {"barsEach", settings.barsEach},
           {"parts", settings.parts},
           {"end", nameIn(kCutEnds, settings.end)},
           {"classes", Json::array()}};
  for (std::size_t i = 0; i < settings.classes.size(); ++i)
    if (settings.classes[i]) out["classes"].push_back(nameOf(HitClass(i)));
  return out;
}

Json write(const Shape& shape) {
  Json out{{"method", nameIn(kMethods, shape.method)},
           {"semitones", shape.semitones.value},
           {"cents", shape.cents.value},
           {"by", nameIn(kStraightenBy, shape.by)},
           {"straighten", shape.straighten},
           {"pins", Json::array()}};
  for (const auto& pin : shape.pins)
    out["pins"].push_back({{"atS", pin.at.value}, {"beat", pin.beat}});
  if (shape.material) out["material"] = kMaterials[std::size_t(*shape.material) + 1];
  if (shape.formants) out["formants"] = true;
  return out;
}

Json write(const Source& source) {
  Json out{
      {"id", source.id}, {"name", source.name}, {"origin", source.origin}, {"hash", source.hash}};
  if (source.kit) out["kit"] = true;
  if (source.corrections != Corrections{}) out["corrected"] = toJson(source.corrections);
  if (source.papers != Papers{}) out["papers"] = toJson(source.papers);
  out["cutting"] = write(source.cutting);
  out["cuts"] = Json::array();
  for (const auto& cut : source.cuts) out["cuts"].push_back(write(cut));
  if (source.shape != Shape{}) out["shape"] = write(source.shape);
  addUnknown(out, source.extra);
  return out;
}

Json write(const Key& key) {
  Json out{{"id", key.id},
           {"row", nameIn(kRows, key.row)},
           {"column", key.column},
           {"page", key.page},
           {"name", key.name},
           {"source", key.sound.source},
           {"cut", key.sound.cut},
           {"part", key.part},
           {"levelDb", key.level.value},
           {"pan", key.pan},
           {"tuneSt", key.tune.value},
           {"fineCt", key.fine.value},
           {"attackMs", key.envelope.attack.value},
           {"decayMs", key.envelope.decay.value},
           {"sustain", key.envelope.sustain},
           {"releaseMs", key.envelope.release.value},
           {"gate", key.gate},
           {"choke", key.choke}};
  addUnknown(out, key.extra);
  return out;
}

Json write(const Part& part) {
  Json out{{"id", part.id},
           {"name", part.name},
           {"role", nameIn(kRows, part.role)},
           {"levelDb", part.level.value},
           {"muted", part.muted},
           {"solo", part.solo}};
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

CutSettings readCutSettings(const Json& json) {
  CutSettings settings;
  settings.way = choice<CutWay>(json, "way", kWays);
  settings.sensitivity = number(json, "sensitivity", 0, 1, 0.5);
  settings.perBeat = int(integer(json, "perBeat", 1, 8, 1));
  settings.barsEach = int(integer(json, "barsEach", 1, 16, 1));
  settings.parts = int(integer(json, "parts", 1, 128, 8));
  settings.end = choice<CutEnd>(json, "end", kCutEnds);
  if (find(json, "classes")) {
    settings.classes = {};
    for (const auto& name : list(json, "classes", 4))
      for (std::size_t i = 0; i < settings.classes.size(); ++i)
        if (name.is_string() && name.get<std::string>() == nameOf(HitClass(i)))
          settings.classes[i] = true;
  }
  return settings;
}

Shape readShape(const Json& json) {
  Shape shape;
  shape.method = choice<FitMethod>(json, "method", kMethods);
  shape.semitones = Semitones(number(json, "semitones", -36, 36, 0));
  shape.cents = Cents(number(json, "cents", -50, 50, 0));
  shape.by = choice<StraightenBy>(json, "by", kStraightenBy);
  shape.straighten = number(json, "straighten", 0, 1, 0);
  for (const auto& each : list(json, "pins", 10'000))
    shape.pins.push_back(
        {Seconds(number(each, "atS", 0, 1e6, 0)), number(each, "beat", -1e5, 1e5, 0)});
  std::sort(shape.pins.begin(), shape.pins.end(),
            [](const TimePin& a, const TimePin& b) { return a.at < b.at; });
  if (const int material = choice<int>(json, "material", kMaterials); material > 0)
    shape.material = Material(material - 1);
  shape.formants = flag(json, "formants");
  return shape;
}

Source readSource(const Json& json) {
  Source source;
  source.id = idFrom(json);
  source.name = text(json, "name", "untitled");
  source.origin = text(json, "origin");
  source.hash = text(json, "hash");
  const auto hex = [](char c) { return (c >= '0' && c <= '9') || (c >= 'a' && c <= 'f'); };
  // The hash becomes a file name, so nothing but a hash is taken for one.
  if (source.hash.size() != 32 || !std::all_of(source.hash.begin(), source.hash.end(), hex))
    throw Bad{"the sound of \"" + source.name + "\" has no proper hash"};
  source.kit = flag(json, "kit");
  if (const Json* corrected = find(json, "corrected"))
    source.corrections = correctionsFromJson(*corrected);
  for (const char* name : {"rights", "papers"}) // under the first name in older files
    if (const Json* papers = find(json, name)) source.papers = papersFromJson(*papers);
  if (const Json* cutting = find(json, "cutting")) {
    source.cutting = readCutSettings(*cutting);
  }
  for (const auto& c : list(json, "cuts", 100'000)) {
    Cut cut;
    cut.id = idFrom(c);
    cut.start = Frames(integer(c, "start", 0, kMostFrames, 0));
    cut.end = Frames(integer(c, "end", 0, kMostFrames, 0));
    cut.byHand = flag(c, "byHand");
    cut.fadeIn = Milliseconds(number(c, "fadeInMs", 0, 50, 1));
    cut.fadeOut = Milliseconds(number(c, "fadeOutMs", 0, 50, 4));
    if (cut.end > cut.start) source.cuts.push_back(cut);
  }
  if (const Json* shape = find(json, "shape")) source.shape = readShape(*shape);
  source.extra = unknownFields(json, {"id", "name", "origin", "hash", "kit", "corrected", "rights",
                                      "papers", "cutting", "cuts", "shape"});
  return source;
}

Key readKey(const Json& json) {
  Key key;
  key.id = idFrom(json);
  key.row = choice<Row>(json, "row", kRows);
  key.column = int(integer(json, "column", 0, kColumns - 1, 0));
  key.page = int(integer(json, "page", 0, 4095, 0));
  key.name = text(json, "name");
  key.sound = {idFrom(json, "source"), idFrom(json, "cut")};
  key.part = idFrom(json, "part");
  key.level = Decibels(number(json, "levelDb", -60, 12, 0));
  key.pan = number(json, "pan", -1, 1, 0);
  key.tune = Semitones(number(json, "tuneSt", -48, 48, 0));
  key.fine = Cents(number(json, "fineCt", -100, 100, 0));
  key.envelope.attack = Milliseconds(number(json, "attackMs", 0, 5000, 0));
  key.envelope.decay = Milliseconds(number(json, "decayMs", 0, 10000, 0));
  key.envelope.sustain = number(json, "sustain", 0, 1, 1);
  key.envelope.release = Milliseconds(number(json, "releaseMs", 0, 10000, 40));
  key.gate = flag(json, "gate");
  key.choke = int(integer(json, "choke", 0, 8, 0));
  key.extra = unknownFields(json, {"id", "row", "column", "page", "name", "source", "cut", "part",
                                   "levelDb", "pan", "tuneSt", "fineCt", "attackMs", "decayMs",
                                   "sustain", "releaseMs", "gate", "choke"});
  return key;
}

Part readPart(const Json& json) {
  Part part;
  part.id = idFrom(json);
  part.name = text(json, "name");
  part.role = choice<Row>(json, "role", kRows);
  part.level = Decibels(number(json, "levelDb", -60, 12, 0));
  part.muted = flag(json, "muted");
  part.solo = flag(json, "solo");
  part.extra = unknownFields(json, {"id", "name", "role", "levelDb", "muted", "solo"});
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
  for (const auto& source : p.sources) out["sources"].push_back(write(*source));
  out["parts"] = Json::array();
  for (const auto& part : p.parts) out["parts"].push_back(write(part));
  out["keys"] = Json::array();
  for (const auto& key : p.keys) out["keys"].push_back(write(key));
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
      p.sources.push_back(std::make_shared<Source>(readSource(s)));
    for (const auto& s : list(json, "parts", 1024)) p.parts.push_back(readPart(s));
    for (const auto& k : list(json, "keys", 4096)) p.keys.push_back(readKey(k));
    for (const auto& s : list(json, "patterns", 4096))
      p.patterns.push_back(std::make_shared<Pattern>(readPattern(s)));
    for (const auto& s : list(json, "sections", 4096)) p.sections.push_back(readSection(s));
    for (const auto& h : list(json, "hushed", 100'000))
      if (h.is_string()) p.hushed.insert(h.get<std::string>());
    p.nextId = idFrom(json, "nextId");
    p.extra = unknownFields(json, {"format", "schema", "revision", "name", "bpm", "beatsPerBar",
                                   "key", "sources", "parts", "keys", "patterns", "sections",
                                   "hushed", "nextId"});
    mendReferences(read);
    return read;
  } catch (const Bad& bad) {
    return Error{"The project cannot be read: " + bad.what, where,
                 "An earlier state is in the folder's history; copy it over project.json."};
  }
}

} // namespace tuvvo
