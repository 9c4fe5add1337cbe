#include "formats/pattern_json.h"

#include "formats/json_names.h"

#include <algorithm>

namespace tuvvo {

using namespace json_read;

namespace {

constexpr std::int64_t kMostTicks = kTicksPerBeat * 4 * kMostMeterBeats * kMostBars;
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
  put(out, "leanMs", feel.lean.value, 0.0);
  put(out, "lag", feel.lag.value, std::int64_t(0));
  if (feel.accent != AccentShape::Flat) out["accent"] = nameIn(kAccents, feel.accent);
  put(out, "accentDepth", feel.accentDepth, 0.0);
  put(out, "loosenMs", feel.loosen.value, 0.0);
  put(out, "loosenLevel", feel.loosenLevel, 0.0);
  put(out, "seed", feel.seed, plain.seed);
  put(out, "pull", feel.pull, 0.0);
  put(out, "groove", feel.groove, Id(0));
  put(out, "grooveTiming", feel.grooveTiming, 1.0);
  put(out, "grooveLevel", feel.grooveLevel, 1.0);
  return out;
}

Feel readFeel(const Json& json) {
  Feel feel;
  feel.swing8 = number(json, "swing8", 50, 80, 50);
  feel.swing16 = number(json, "swing16", 50, 80, 50);
  feel.lean = Milliseconds(number(json, "leanMs", -200, 200, 0));
  feel.lag = Beats(integer(json, "lag", -kMostLag.value, kMostLag.value, 0));
  feel.accent = choice<AccentShape>(json, "accent", kAccents);
  feel.accentDepth = number(json, "accentDepth", 0, 0.9, 0);
  feel.loosen = Milliseconds(number(json, "loosenMs", 0, 40, 0));
  feel.loosenLevel = number(json, "loosenLevel", 0, 0.4, 0);
  feel.seed = std::uint32_t(integer(json, "seed", 0, 0xffffffff, 1));
  feel.pull = number(json, "pull", 0, 1, 0);
  feel.groove = idFrom(json, "groove");
  feel.grooveTiming = number(json, "grooveTiming", 0, 1.5, 1);
  feel.grooveLevel = number(json, "grooveLevel", 0, 1.5, 1);
  return feel;
}

/// Files from before feels had more than one swing.
Feel readOldFeel(const Json& lane) {
  Feel feel;
  const double swing = number(lane, "swing", 50, 80, 50);
  (integer(lane, "swingPairs", 1, 8, 2) == 1 ? feel.swing8 : feel.swing16) = swing;
  feel.lean = Milliseconds(number(lane, "leanMs", -200, 200, 0));
  return feel;
}

} // namespace

Json toJson(const Pin& pin) {
  Json p{{"at", pin.at.value}, {"key", pin.key}, {"velocity", pin.velocity}};
  put(p, "leanMs", pin.lean.value, 0.0);
  put(p, "tuneSt", pin.tune.value, 0.0);
  put(p, "length", pin.length.value, std::int64_t(0));
  put(p, "start", pin.start, 0.0);
  put(p, "brightOctaves", pin.bright, 0.0);
  put(p, "pan", pin.pan, 0.0);
  if (pin.reversed) p["reversed"] = true;
  if (pin.roll != Roll{})
    p["roll"] = {{"hits", pin.roll.hits},
                 {"step", pin.roll.step.value},
                 {"endLevel", pin.roll.endLevel},
                 {"endTuneSt", pin.roll.endTune.value}};
  if (pin.flam != Flam{})
    p["flam"] = {{"beforeMs", pin.flam.before.value}, {"level", pin.flam.level}};
  put(p, "chance", pin.odds.chance, 1.0);
  put(p, "every", pin.odds.every, 1);
  put(p, "turn", pin.odds.turn, 1);
  return p;
}

Pin pinFromJson(const Json& p) {
  Pin pin;
  pin.at = Beats(integer(p, "at", 0, kMostTicks, 0));
  pin.key = idFrom(p, "key");
  pin.velocity = number(p, "velocity", 0.02, 1, 0.8);
  pin.lean = Milliseconds(number(p, "leanMs", -200, 200, 0));
  pin.tune = Semitones(number(p, "tuneSt", -48, 48, 0));
  pin.length = Beats(integer(p, "length", 0, kMostTicks, 0));
  pin.start = number(p, "start", 0, kLatestStart, 0);
  pin.bright = number(p, "brightOctaves", -10, 10, 0);
  pin.pan = number(p, "pan", -1, 1, 0);
  pin.reversed = flag(p, "reversed");
  if (const Json* roll = find(p, "roll")) {
    pin.roll.hits = int(integer(*roll, "hits", 1, kMostRoll, 1));
    pin.roll.step =
        Beats(integer(*roll, "step", kShortestStep.value, kTicksPerBeat * 4, Roll{}.step.value));
    pin.roll.endLevel = number(*roll, "endLevel", 0.02, 4, 1);
    pin.roll.endTune = Semitones(number(*roll, "endTuneSt", -48, 48, 0));
  }
  if (const Json* flam = find(p, "flam")) {
    pin.flam.before = Milliseconds(number(*flam, "beforeMs", 0, 100, 0));
    pin.flam.level = number(*flam, "level", 0.02, 1, 0.5);
  }
  pin.odds.chance = number(p, "chance", 0, 1, 1);
  pin.odds.every = int(integer(p, "every", 1, kMostRounds, 1));
  pin.odds.turn = int(integer(p, "turn", 1, pin.odds.every, 1));
  return pin;
}

Json toJson(const Pattern& pattern) {
  Json out{{"id", pattern.id},
           {"name", pattern.name},
           {"bars", pattern.bars},
           {"meter", nameOf(pattern.meter)}};
  put(out, "family", pattern.family, Id(0));
  out["lanes"] = Json::array();
  for (const auto& lane : pattern.lanes) {
    Json written{{"part", lane.part}};
    put(written, "length", lane.length.value, std::int64_t(0));
    written["feel"] = write(lane.feel);
    written["pins"] = Json::array();
    for (const auto& pin : lane.pins) written["pins"].push_back(toJson(pin));
    out["lanes"].push_back(std::move(written));
  }
  for (const auto& mark : pattern.chords)
    out["chords"].push_back({{"at", mark.at.value}, {"name", mark.name}});
  addUnknown(out, pattern.extra);
  return out;
}

Pattern patternFromJson(const Json& json, Meter meter) {
  Pattern pattern;
  pattern.id = idFrom(json);
  pattern.name = text(json, "name");
  pattern.bars = int(integer(json, "bars", 1, kMostBars, 2));
  pattern.meter = find(json, "meter") ? meterIn(json) : meter;
  pattern.family = idFrom(json, "family");
  for (const auto& l : list(json, "lanes", 1024)) {
    Lane lane;
    lane.part = idFrom(l, "part");
    lane.length = Beats(integer(l, "length", 0, kMostTicks, 0));
    const Json* feel = find(l, "feel");
    lane.feel = feel ? readFeel(*feel) : readOldFeel(l);
    for (const auto& p : list(l, "pins", 100'000)) lane.pins.push_back(pinFromJson(p));
    pattern.lanes.push_back(std::move(lane));
  }
  for (const auto& c : list(json, "chords", kMostChords))
    pattern.chords.push_back({Beats(integer(c, "at", 0, kMostTicks, 0)), text(c, "name")});
  pattern.extra = unknownFields(json, {"id", "name", "bars", "meter", "family", "lanes", "chords"});
  hold(pattern);
  return pattern;
}

Json toJson(const Groove& groove) {
  Json out{{"id", groove.id}, {"name", groove.name}, {"length", groove.length.value}};
  put(out, "from", groove.from, std::string());
  out["steps"] = Json::array();
  for (const auto& step : groove.steps)
    out["steps"].push_back({{"at", step.at.value}, {"late", step.late}, {"level", step.level}});
  return out;
}

Groove grooveFromJson(const Json& json) {
  Groove groove;
  groove.id = idFrom(json);
  groove.name = text(json, "name");
  groove.from = text(json, "from");
  groove.length = Beats(integer(json, "length", 1, kMostGroove.value, kTicksPerBeat));
  for (const auto& s : list(json, "steps", 4096)) {
    Groove::Step step;
    step.at = Beats(integer(s, "at", 0, kMostGroove.value, 0));
    step.late = number(s, "late", -double(kTicksPerBeat), double(kTicksPerBeat), 0);
    step.level = number(s, "level", 0.1, 4, 1);
    groove.steps.push_back(step);
  }
  hold(groove);
  return groove;
}

Meter meterIn(const Json& json) {
  const std::string name = text(json, "meter");
  if (name.empty()) return quarters(int(integer(json, "beatsPerBar", 2, 7, 4)));
  if (const auto meter = meterFromName(name)) return *meter;
  throw Bad{"\"" + name + "\" is no meter"};
}

} // namespace tuvvo
