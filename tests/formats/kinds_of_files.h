// What files hold, once each, and how it is read and written again: for tests of what is believed.
#pragma once
#include "formats/analysis_json.h"
#include "formats/bus_json.h"
#include "formats/key_json.h"
#include "formats/pattern_json.h"
#include "formats/project_json.h"
#include "formats/source_json.h"

#include <nlohmann/json.hpp>

namespace tuvvo::test {

using json_read::Json;
using Pointer = Json::json_pointer;

/// Everything that can be heard, once.
inline const char* const kHearing = R"({"durationS": 8, "sampleRate": 44100, "channels": 2,
  "kind": {"name": "loop", "confidence": 0.5},
  "tempo": {"bpm": 90, "confidence": 0.5, "steady": true, "driftMs": 3,
            "alternatives": [{"bpm": 45, "relation": "half"}]},
  "wow": {"rateHz": 0.5, "depthCents": 9}, "root": {"hz": 110}, "meter": 3, "meterName": "3/4",
  "beatsS": [1], "downbeatsS": [1], "loop": {"bars": 2, "exact": true},
  "key": {"name": "Am", "confidence": 0.5, "tuningCents": 4, "mode": "", "alternatives": ["C"]},
  "chords": [{"startS": 1, "endS": 2, "name": "Am", "bass": "A", "confidence": 0.7, "other": "C"}],
  "onsets": [{"atS": 1, "cutS": 1, "hits": ["kick"], "sure": [0.5, 0.5, 0.5, 0.5], "drums": ["clap"], "level": -6,
               "levels": [-6, -6, -6, -6],
              "brightnessHz": 900, "decayMs": 80, "ringHz": 60, "group": 2}],
  "sections": [{"startS": 1, "endS": 2, "label": "A",
                 "content": {"levelDb": -1, "onsets": 4, "drums": 3, "lows": 0.5, "voices": 0.5, "tones": 0.5, "changes": 0.5}}],
  "content": {"levelDb": -1, "onsets": 4, "drums": 3, "lows": 0.5, "voices": 0.5, "tones": 0.5, "changes": 0.5},
  "loudness": {"integratedLufs": -14, "truePeakDbtp": -1, "samplePeakDbfs": -1, "rangeLu": 4,
               "shortTermLufs": -13, "noiseFloorDbfs": -60},
  "faults": [{"kind": "hum", "figure": 50, "second": -40}]})";

inline Json hearing() {
  Json json = Json::parse(kHearing);
  json["tempo"]["curve"] = std::vector<double>(kTempoCurve, 1.0);
  return json;
}

struct Range {
  const char* place;
  double least, most;
  double standard = 0; ///< what is not written
};
inline constexpr double kMissing = -12'345; ///< as good as not said

/// What a file says of one thing, what stands for a figure that it does not say, and how it is
/// read and written again, without what was kept of it because it was beyond its range.
struct Kind {
  const char* name;
  const char* text;
  Json (*again)(const Json& json);
  std::vector<Range> ranges;
};

inline Json hitAgain(const Json& json) {
  json_read::Reading reading;
  Hit hit = hitFromJson(json, reading);
  hit.extra = {};
  return toJson(hit);
}

inline Json keyAgain(const Json& json) {
  json_read::Reading reading;
  Key key = keyFromJson(json, reading);
  key.extra = {};
  for (auto& layer : key.layers) layer.extra = {};
  for (auto& treatment : key.treatments) treatment.extra = {};
  return toJson(key);
}

inline Json laneAgain(const Json& json) {
  json_read::Reading reading;
  Pattern pattern = patternFromJson({{"id", 1}, {"lanes", {json}}}, {}, reading);
  pattern.lanes.at(0).extra = {};
  return toJson(pattern.lanes[0]);
}

inline Json busAgain(const Json& json) {
  json_read::Reading reading;
  json_read::Fields fields(json, reading);
  BusSettings bus;
  json_read::readBus(fields, bus);
  Json out{{"levelDb", bus.level.value}};
  json_read::writeBus(out, bus);
  return out;
}

inline Json sourceAgain(const Json& json) {
  json_read::Reading reading;
  Source source = sourceFromJson(json, reading);
  source.extra = {};
  for (auto& cut : source.cuts) cut.extra = {};
  for (auto& marker : source.shape.markers) marker.extra = {};
  for (auto& said : source.corrections.hits) said.extra = {};
  return toJson(source);
}

inline Json grooveAgain(const Json& json) {
  json_read::Reading reading;
  Groove groove = grooveFromJson(json, reading);
  groove.extra = {};
  for (auto& step : groove.steps) step.extra = {};
  return toJson(groove);
}

inline Json projectAgain(const Json& json) {
  const auto read = projectFromText(json.dump(), "test");
  if (!read) return {};
  Project project = read->project;
  project.extra = {};
  for (auto& part : project.parts) part.extra = {};
  for (auto& section : project.sections) section.extra = {};
  for (auto& mark : project.tempoMarks) mark.extra = {};
  for (auto& pattern : project.patterns) {
    auto bare = std::make_shared<Pattern>(*pattern);
    bare->extra = {};
    pattern = std::move(bare);
  }
  return Json::parse(projectToText(project, 0));
}

inline const std::vector<Kind>& kindsOfProjects() {
  static const std::vector<Kind> all{
      {"hit",
       R"({"at": 960, "key": 3, "velocity": 0.5, "microTimingMs": 1, "tuneSt": 1, "length": 960,
           "start": 0.1, "brightOctaves": 1, "pan": 0.1,
           "roll": {"hits": 3, "step": 100000, "endLevel": 0.5, "endTuneSt": 1},
           "flam": {"beforeMs": 10, "level": 0.4}, "chance": 0.5, "every": 4, "turn": 2,
           "glideMs": 20, "glideFromSt": -5, "treatedEvery": 4, "treatedTurn": 2,
           "treatments": [{"kind": "reverse"}]})",
       hitAgain,
       {{"/velocity", 0.02, 1, 0.8},
        {"/microTimingMs", -200, 200, 0},
        {"/tuneSt", -48, 48, 0},
        {"/start", 0, 0.99, 0},
        {"/brightOctaves", -10, 10, 0},
        {"/pan", -1, 1, 0},
        {"/roll/hits", 1, 64, 1},
        {"/roll/endLevel", 0.02, 4, 1},
        {"/roll/endTuneSt", -48, 48, 0},
        {"/flam/beforeMs", 0, 100, 0},
        {"/flam/level", 0.02, 1, 0.5},
        {"/chance", 0, 1, 1},
        {"/every", 1, 16, 1},
        {"/turn", 1, 4, 1},
        {"/glideMs", -1, 2000, -1},
        {"/glideFromSt", -48, 48, 0},
        {"/treatedEvery", 1, 16, 1},
        {"/treatedTurn", 1, 4, 1}}},
      {"key",
       R"({"id": 3, "row": "body", "column": 2, "page": 1, "name": "snare", "source": 1, "cut": 0,
           "part": 2, "levelDb": -3, "pan": 0.1, "tuneSt": 1, "fineCt": 5, "gate": true, "choke": 2,
           "attackMs": 1, "holdMs": 2, "decayMs": 3, "sustain": 0.5, "releaseMs": 4,
           "attackCurve": 0.1, "decayCurve": 0.2, "releaseCurve": 0.3,
           "own": {"delayMs": 1, "levelDb": -1, "tuneSt": 1, "upTo": 0.5, "highPassHz": 90,
             "lowPassHz": 4000, "attackMs": 3, "decayMs": 200, "inverted": true},
           "layers": [{"source": 1, "cut": 0, "delayMs": 1, "levelDb": -1, "tuneSt": 1, "upTo": 0.7}],
           "treatments": [{"kind": "chop", "order": [0]}],
           "mono": true, "glideMs": 30, "trimStartMs": 1, "trimEndMs": 1,
           "loop": {"on": true, "from": 0.5, "to": 0.9, "crossfadeMs": 20},
           "highPassHz": 100, "lowPassHz": 5000, "resonanceDb": 3,
           "filterEnvelope": {"lowOctaves": 1, "highOctaves": 1, "attackMs": 1, "holdMs": 1,
             "decayMs": 1, "sustain": 0.5, "releaseMs": 1, "attackCurve": 0.1, "decayCurve": 0.1,
             "releaseCurve": 0.1}})",
       keyAgain,
       {{"/column", 0, 7, 0},
        {"/page", 0, 4095, 0},
        {"/levelDb", -60, 12, 0},
        {"/pan", -1, 1, 0},
        {"/tuneSt", -48, 48, 0},
        {"/fineCt", -100, 100, 0},
        {"/choke", 0, 8, 0},
        {"/attackMs", 0, 5000, 0},
        {"/holdMs", 0, 10'000, 0},
        {"/decayMs", 0, 10'000, 0},
        {"/sustain", 0, 1, 1},
        {"/releaseMs", 0, 10'000, 40},
        {"/attackCurve", -1, 1, 0},
        {"/decayCurve", -1, 1, 1},
        {"/releaseCurve", -1, 1, 1},
        {"/own/delayMs", 0, 500, 0},
        {"/own/levelDb", -60, 12, 0},
        {"/own/tuneSt", -48, 48, 0},
        {"/own/upTo", 0.02, 1, 1},
        {"/own/highPassHz", 0, 20'000, 0},
        {"/own/lowPassHz", 0, 20'000, 0},
        {"/own/attackMs", 0, 500, 0},
        {"/own/decayMs", 0, 5000, 0},
        {"/layers/0/delayMs", 0, 500, 0},
        {"/layers/0/levelDb", -60, 12, 0},
        {"/layers/0/tuneSt", -48, 48, 0},
        {"/layers/0/upTo", 0.02, 1, 1},
        {"/glideMs", 0, 2000, 0},
        {"/trimStartMs", 0, 3'600'000, 0},
        {"/trimEndMs", 0, 3'600'000, 0},
        {"/loop/from", 0, 0.99, 0.25},
        {"/loop/to", 0.51, 1, 1},
        {"/loop/crossfadeMs", 1, 500, 10},
        {"/highPassHz", 0, 20'000, 0},
        {"/lowPassHz", 0, 20'000, 0},
        {"/resonanceDb", 0, 24, 0},
        {"/filterEnvelope/lowOctaves", -8, 8, 0},
        {"/filterEnvelope/highOctaves", -8, 8, 0},
        {"/filterEnvelope/attackMs", 0, 5000, 0},
        {"/filterEnvelope/holdMs", 0, 10'000, 0},
        {"/filterEnvelope/decayMs", 0, 10'000, 250},
        {"/filterEnvelope/sustain", 0, 1, 0},
        {"/filterEnvelope/releaseMs", 0, 10'000, 120},
        {"/filterEnvelope/attackCurve", -1, 1, 0},
        {"/filterEnvelope/decayCurve", -1, 1, 1},
        {"/filterEnvelope/releaseCurve", -1, 1, 1}}},
      {"lane",
       R"({"part": 2, "length": 0, "hits": [],
           "feel": {"swing8": 60, "swing16": 60, "microTimingMs": 1, "lag": 5, "accent": "beats",
             "accentDepth": 0.3, "humaniseMs": 3, "humaniseLevel": 0.1, "seed": 7,
             "quantiseStrength": 0.5, "groove": 4, "grooveTiming": 0.5, "grooveLevel": 0.5}})",
       laneAgain,
       {{"/feel/swing8", 50, 80, 50},
        {"/feel/swing16", 50, 80, 50},
        {"/feel/microTimingMs", -200, 200, 0},
        {"/feel/accentDepth", 0, 0.9, 0},
        {"/feel/humaniseMs", 0, 40, 0},
        {"/feel/humaniseLevel", 0, 0.4, 0},
        {"/feel/seed", 0, 4294967295.0, 1},
        {"/feel/quantiseStrength", 0, 1, 0},
        {"/feel/grooveTiming", 0, 1.5, 1},
        {"/feel/grooveLevel", 0, 1.5, 1}}},
      {"source",
       R"({"id": 1, "name": "quay", "hash": "0123456789abcdef0123456789abcdef",
           "corrected": {"bpm": 80, "downbeatS": 0.5, "hits": [{"atS": 1, "hits": ["kick"]}]},
           "cutting": {"classes": ["kick"], "way": "beats", "sensitivity": 0.3, "perBeat": 2, "barsEach": 2, "parts": 4},
           "shape": {"method": "stretch", "semitones": 2, "cents": 5, "by": "beats",
             "straighten": 0.5, "warpMarkers": [{"atS": 1, "beat": 2}]},
           "cuts": [{"id": 2, "start": 10, "end": 2000, "fadeInMs": 2, "fadeOutMs": 5}]})",
       sourceAgain,
       {{"/corrected/bpm", 20, 400, kMissing},
        {"/corrected/downbeatS", 0, 1e5, kMissing},
        {"/cutting/sensitivity", 0, 1, 0.5},
        {"/cutting/perBeat", 1, 8, 1},
        {"/cutting/barsEach", 1, 16, 1},
        {"/cutting/parts", 1, 128, 8},
        {"/shape/semitones", -36, 36, 0},
        {"/shape/cents", -50, 50, 0},
        {"/shape/straighten", 0, 1, 0},
        {"/shape/warpMarkers/0/atS", 0, 1e6, 0},
        {"/shape/warpMarkers/0/beat", -1e5, 1e5, 0},
        {"/cuts/0/fadeInMs", 0, 50, 1},
        {"/cuts/0/fadeOutMs", 0, 50, 4}}},
      {"groove",
       R"({"id": 4, "name": "late", "length": 161280, "steps": [{"at": 10, "late": 5, "level": 1.5}]})",
       grooveAgain,
       {{"/steps/0/late", -double(kTicksPerBeat) / 4, double(kTicksPerBeat) / 4, 0},
        {"/steps/0/level", 0.1, 4, 1}}},
      {"project",
       R"({"format": "tuvvo project", "schema": 2, "revision": 0, "name": "x", "bpm": 80, "meter": "4/4",
           "parts": [{"id": 1, "name": "p", "role": "body", "quantiseStrength": 0.5, "perBeat": 3,
             "duck": {"by": 1, "depthDb": 5, "backMs": 90}}],
           "patterns": [{"id": 2, "name": "q", "bars": 3, "meter": "4/4"}],
           "sections": [{"id": 3, "name": "s", "pattern": 2, "bars": 8, "mutedParts": [1]}],
           "dismissedNotes": ["levels:x"],
           "tempoMarks": [{"at": 100, "bpm": 70}], "nextId": 9})",
       projectAgain,
       {{"/bpm", 20, 400, 90},
        {"/parts/0/quantiseStrength", 0, 1, 0},
        {"/parts/0/perBeat", 1, 32, 4},
        {"/parts/0/duck/depthDb", 0, 40, 9},
        {"/parts/0/duck/backMs", 10, 2000, 140},
        {"/patterns/0/bars", 1, kMostBars, 2},
        {"/sections/0/bars", 1, 256, 4},
        {"/tempoMarks/0/bpm", 20, 400, 90}}},
      {"bus",
       R"({"levelDb": -3, "pan": 0.1, "width": 0.5, "sendsDb": [-6, -6, -6, -6]})",
       busAgain,
       {{"/levelDb", -60, 12, 0},
        {"/pan", -1, 1, 0},
        {"/width", 0, 2, 1},
        {"/sendsDb/0", -60, 12, kMissing},
        {"/sendsDb/3", -60, 12, kMissing}}},
  };
  return all;
}

} // namespace tuvvo::test
