#include "formats/pattern_json.h"

#include "base/text.h"
#include "formats/json_names.h"
#include "formats/pattern_ranges.h"
#include "formats/treatment_json.h"
#include "listen/chord_name.h"
#include "model/pattern_parameters.h"

#include <algorithm>

namespace tuvvo {

using namespace json_read;

namespace {

constexpr std::int64_t kMostTicks = kTicksPerBeat * 4 * kMostMeterBeats * kMostBars;
constexpr std::size_t kMostHits = 2'000'000; ///< of one lane
constexpr std::array kAccents{"flat",     "beats",  "backbeats", "offbeats",
                              "downbeat", "rising", "falling"};

template <class Value> void put(Json& out, const char* name, Value value, Value usual) {
  if (value != usual) out[name] = value;
}

Json write(const Feel& feel) {
  const Feel plain;
  Json out = Json::object();
  put(out, "swing8", feel.swing8, plain.swing8);
  put(out, "swing16", feel.swing16, plain.swing16);
  put(out, "microTimingMs", feel.microTiming.value, 0.0);
  put(out, "lag", feel.lag.value, std::int64_t(0));
  if (feel.accent != AccentShape::Flat) out["accent"] = nameIn(kAccents, feel.accent);
  put(out, "accentDepth", feel.accentDepth, 0.0);
  put(out, "humaniseMs", feel.humanise.value, 0.0);
  put(out, "humaniseLevel", feel.humaniseLevel, 0.0);
  put(out, "seed", feel.seed, plain.seed);
  put(out, "quantiseStrength", feel.quantiseStrength, 0.0);
  put(out, "groove", feel.groove, Id(0));
  put(out, "grooveTiming", feel.grooveTiming, 1.0);
  put(out, "grooveLevel", feel.grooveLevel, 1.0);
  return out;
}

Feel readFeel(Fields& json) {
  const FeelRanges& ranges = feelRanges();
  Feel feel;
  feel.swing8 = ranges.swing8.in(json, "swing8");
  feel.swing16 = ranges.swing16.in(json, "swing16");
  feel.microTiming = Milliseconds(ranges.microTiming.in(json, "microTimingMs"));
  feel.lag = Beats(json.integer("lag", -kMostLag.value, kMostLag.value, 0));
  feel.accent = json.choice<AccentShape>("accent", kAccents);
  feel.accentDepth = ranges.accentDepth.in(json, "accentDepth");
  feel.humanise = Milliseconds(ranges.humanise.in(json, "humaniseMs"));
  feel.humaniseLevel = ranges.humaniseLevel.in(json, "humaniseLevel");
  feel.seed = std::uint32_t(json.integer("seed", 0, 0xffffffff, 1));
  feel.quantiseStrength = ranges.quantiseStrength.in(json, "quantiseStrength");
  feel.groove = idFrom(json, "groove");
  feel.grooveTiming = ranges.grooveTiming.in(json, "grooveTiming");
  feel.grooveLevel = ranges.grooveLevel.in(json, "grooveLevel");
  return feel;
}

} // namespace

Json toJson(const Hit& hit) {
  Json p{{"at", hit.at.value}, {"key", hit.key}, {"velocity", hit.velocity}};
  put(p, "microTimingMs", hit.microTiming.value, 0.0);
  put(p, "tuneSt", hit.tune.value, 0.0);
  put(p, "length", hit.length.value, std::int64_t(0));
  put(p, "start", hit.start, 0.0);
  put(p, "brightOctaves", hit.bright, 0.0);
  put(p, "pan", hit.pan, 0.0);
  if (hit.reversed) p["reversed"] = true;
  if (hit.roll != Roll{})
    p["roll"] = {{"hits", hit.roll.hits},
                 {"step", hit.roll.step.value},
                 {"endLevel", hit.roll.endLevel},
                 {"endTuneSt", hit.roll.endTune.value}};
  if (hit.flam != Flam{})
    p["flam"] = {{"beforeMs", hit.flam.before.value}, {"level", hit.flam.level}};
  put(p, "chance", hit.condition.chance, 1.0);
  put(p, "every", hit.condition.every, 1);
  put(p, "turn", hit.condition.turn, 1);
  put(p, "glideMs", hit.glide.time.value, -1.0);
  put(p, "glideFromSt", hit.glide.from.value, 0.0);
  const auto& treated = hit.treatments.list();
  if (!treated.treatments.empty()) p["treatments"] = toJson(treated.treatments);
  put(p, "treatedEvery", treated.every, 1);
  put(p, "treatedTurn", treated.turn, 1);
  addRest(p, hit.extra);
  return p;
}

Hit hitFromJson(const Json& json, Reading& reading) {
  const HitRanges& ranges = hitRanges();
  Fields p(json, reading);
  Hit hit;
  hit.at = Beats(p.integer("at", 0, kMostTicks, 0));
  hit.key = idFrom(p, "key");
  hit.velocity = ranges.velocity.in(p, "velocity");
  hit.microTiming = Milliseconds(ranges.microTiming.in(p, "microTimingMs"));
  hit.tune = Semitones(ranges.tune.in(p, "tuneSt"));
  hit.length = Beats(p.integer("length", 0, kMostTicks, 0));
  hit.start = ranges.start.in(p, "start");
  hit.bright = ranges.brightness.in(p, "brightOctaves");
  hit.pan = ranges.pan.in(p, "pan");
  hit.reversed = p.flag("reversed");
  p.inside("roll", [&](Fields& roll) {
    hit.roll.hits = ranges.roll.wholeIn(roll, "hits");
    hit.roll.step =
        Beats(roll.integer("step", kShortestStep.value, kTicksPerBeat * 4, Roll{}.step.value));
    hit.roll.endLevel = ranges.rollEndsAt.in(roll, "endLevel");
    hit.roll.endTune = Semitones(ranges.rollTune.in(roll, "endTuneSt"));
  });
  p.inside("flam", [&](Fields& flam) {
    hit.flam.before = Milliseconds(ranges.flam.in(flam, "beforeMs"));
    hit.flam.level = ranges.flamLevel.in(flam, "level");
  });
  hit.condition.chance = ranges.chance.in(p, "chance");
  hit.condition.every = ranges.every.wholeIn(p, "every");
  hit.condition.turn = int(p.integer("turn", 1, hit.condition.every, 1));
  hit.glide.time = Milliseconds(ranges.glide.in(p, "glideMs"));
  hit.glide.from = Semitones(ranges.glideFrom.in(p, "glideFromSt"));
  HitTreatments::List treated;
  readTreatments(p, treated.treatments);
  treated.every = ranges.every.wholeIn(p, "treatedEvery");
  treated.turn = int(p.integer("treatedTurn", 1, treated.every, 1));
  hit.treatments = HitTreatments(std::move(treated));
  hit.extra = p.rest([&] { return toJson(hit); });
  return hit;
}

namespace {

/// All but the lists.
Json head(const Lane& lane) {
  Json out{{"part", lane.part}};
  put(out, "length", lane.length.value, std::int64_t(0));
  out["feel"] = write(lane.feel);
  return out;
}

Lane readLane(const Json& json, Meter meter, Reading& reading) {
  Fields f(json, reading);
  Lane lane;
  lane.part = idFrom(f, "part");
  // As clamp() has it, so that what it would change is kept as it was.
  if (lane.length = Beats(f.integer("length", 0, kMostTicks, 0)); lane.length.value != 0)
    lane.length =
        Beats(f.integer("length", kShortestLane.value, (barOf(meter) * kMostBars).value, 0));
  f.inside("feel", [&](Fields& feel) { lane.feel = readFeel(feel); });
  if (const Json* hits = f.find("hits"); hits && hits->is_array())
    lane.hits.reserve(std::min(hits->size(), kMostHits));
  f.entries("hits", kMostHits,
            [&](const Json& p) { lane.hits.push_back(hitFromJson(p, reading)); });
  lane.extra = f.rest([&] { return head(lane); });
  return lane;
}

Json write(const ChordMark& mark) {
  Json out{{"at", mark.at.value}, {"name", mark.name}};
  addRest(out, mark.extra);
  return out;
}

ChordMark readChord(const Json& json, Reading& reading) {
  Fields f(json, reading);
  ChordMark mark{Beats(f.integer("at", 0, kMostTicks, 0)), f.text("name"), {}};
  if (!chordFromName(mark.name))
    throw Bad{"the chord \"" + std::string(beginningOf(mark.name, 60)) + "\""};
  mark.extra = f.rest([&] { return write(mark); });
  return mark;
}

Json head(const Pattern& pattern) {
  Json out{{"id", pattern.id},
           {"name", pattern.name},
           {"bars", pattern.bars},
           {"meter", nameOf(pattern.meter)}};
  put(out, "family", pattern.family, Id(0));
  return out;
}

Json head(const Groove& groove) {
  Json out{{"id", groove.id}, {"name", groove.name}, {"length", groove.length.value}};
  put(out, "from", groove.from, std::string());
  return out;
}

Json write(const Groove::Step& step) {
  Json out{{"at", step.at.value}, {"late", step.late}, {"level", step.level}};
  addRest(out, step.extra);
  return out;
}

Groove::Step readStep(const Json& json, Beats length, Reading& reading) {
  Fields f(json, reading);
  Groove::Step step;
  step.at = Beats(f.integer("at", 0, kMostGroove.value, 0));
  if (step.at >= length) throw Bad{"a step behind the end of its feel"};
  step.late = f.number("late", -double(kTicksPerBeat) / 4, double(kTicksPerBeat) / 4, 0);
  step.level = f.number("level", 0.1, 4, 1);
  step.extra = f.rest([&] { return write(step); });
  return step;
}

} // namespace

Json toJson(const Lane& lane) {
  Json out = head(lane);
  Json hits = Json::array();
  for (const auto& hit : lane.hits) hits.push_back(toJson(hit));
  append(out, "hits", std::move(hits));
  addRest(out, lane.extra);
  return out;
}

Json toJson(const Pattern& pattern) {
  Json out = head(pattern);
  out["lanes"] = Json::array();
  for (const auto& lane : pattern.lanes) out["lanes"].push_back(toJson(lane));
  for (const auto& mark : pattern.chords) out["chords"].push_back(write(mark));
  addRest(out, pattern.extra);
  return out;
}

Pattern patternFromJson(const Json& json, Meter meter, Reading& reading) {
  Fields f(json, reading);
  Pattern pattern;
  pattern.id = idFrom(f);
  pattern.name = f.text("name");
  pattern.bars = int(f.integer("bars", 1, kMostBars, 2));
  pattern.meter = f.find("meter") ? meterIn(f) : meter;
  pattern.family = idFrom(f, "family");
  f.entries("lanes", 1024, [&](const Json& lane) {
    pattern.lanes.push_back(readLane(lane, pattern.meter, reading));
  });
  f.entries("chords", kMostChords,
            [&](const Json& mark) { pattern.chords.push_back(readChord(mark, reading)); });
  pattern.extra = f.rest([&] { return head(pattern); });
  clamp(pattern);
  return pattern;
}

Json toJson(const Groove& groove) {
  Json out = head(groove);
  out["steps"] = Json::array();
  for (const auto& step : groove.steps) out["steps"].push_back(write(step));
  addRest(out, groove.extra);
  return out;
}

Groove grooveFromJson(const Json& json, Reading& reading) {
  Fields f(json, reading);
  Groove groove;
  groove.id = idFrom(f);
  groove.name = f.text("name");
  groove.from = f.text("from");
  groove.length = Beats(f.integer("length", kTicksPerBeat / 8, kMostGroove.value, kTicksPerBeat));
  f.entries("steps", 4096, [&](const Json& step) {
    groove.steps.push_back(readStep(step, groove.length, reading));
  });
  groove.extra = f.rest([&] { return head(groove); });
  clamp(groove);
  return groove;
}

Meter meterIn(Fields& fields) {
  const std::string name = fields.text("meter");
  if (name.empty()) return {};
  if (const auto meter = meterFromName(name)) return *meter;
  throw Bad{"the meter \"" + std::string(beginningOf(name, 60)) + "\""};
}

Meter anyMeterIn(Fields& fields) {
  try {
    return meterIn(fields);
  } catch (const Bad&) {
    fields.odd("meter", "meter");
    return {};
  }
}

} // namespace tuvvo
