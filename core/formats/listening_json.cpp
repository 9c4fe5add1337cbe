#include "formats/listening_json.h"

#include "formats/json_read.h"

#include <algorithm>
#include <cmath>
#include <limits>

namespace tuvvo {

using json_read::Json;

namespace {

constexpr std::size_t kMostEvents = 500'000;

Json finite(double value) { return std::isfinite(value) ? Json(value) : Json(nullptr); }

Json seconds(const std::vector<Seconds>& all) {
  Json out = Json::array();
  for (const auto& s : all) out.push_back(s.value);
  return out;
}

/// Three digits, as they were heard; without what a float adds to them.
Json rounded(const std::vector<float>& curve) {
  Json out = Json::array();
  for (float v : curve) out.push_back(std::round(double(v) * 1000) / 1000);
  return out;
}

std::vector<Seconds> secondsFrom(const Json& object, const char* name) {
  std::vector<Seconds> out;
  for (const auto& v : json_read::list(object, name, kMostEvents)) {
    if (!v.is_number())
      throw json_read::Bad{std::string("\"") + name + "\" holds something else than numbers"};
    out.push_back(Seconds(std::clamp(v.get<double>(), 0.0, 1e6)));
  }
  return out;
}

KeyName keyFrom(const std::string& name) {
  const auto key = keyFromName(name);
  if (!key) throw json_read::Bad{"\"" + name + "\" is no key"};
  return *key;
}

double orSilence(const Json& object, const char* name) {
  constexpr double silence = -std::numeric_limits<double>::infinity();
  return json_read::find(object, name) ? json_read::number(object, name, -1000, 1000, 0) : silence;
}

} // namespace

nlohmann::ordered_json toJson(const Listening& heard) {
  Json out;
  out["durationS"] = heard.duration.value;
  out["sampleRate"] = heard.rate.value;
  out["channels"] = heard.channels;
  out["kind"] = {{"name", nameOf(heard.kind.kind)}, {"confidence", heard.kind.confidence}};
  out["tempo"] = nullptr;
  if (heard.tempo) {
    Json alternatives = Json::array();
    for (const auto& a : heard.tempo->alternatives)
      alternatives.push_back({{"bpm", a.bpm.value}, {"relation", a.relation}});
    out["tempo"] = {{"bpm", heard.tempo->bpm.value}, {"confidence", heard.tempo->confidence},
                    {"alternatives", alternatives},  {"curve", rounded(heard.tempo->curve)},
                    {"steady", heard.tempo->steady}, {"driftMs", heard.tempo->drift.value}};
  }
  out["wow"] = nullptr;
  if (heard.wow)
    out["wow"] = {{"rateHz", heard.wow->rate.value}, {"depthCents", heard.wow->depth.value}};
  out["root"] = nullptr;
  if (heard.root.value > 0)
    out["root"] = {{"hz", heard.root.value}, {"note", noteNameOf(heard.root)}};
  out["meter"] = heard.meter;
  out["meterName"] = meterName(heard);
  out["beatsS"] = seconds(heard.beats);
  out["downbeatsS"] = seconds(heard.downbeats);
  out["loop"] = nullptr;
  if (heard.loop) out["loop"] = {{"bars", heard.loop->bars}, {"exact", heard.loop->exact}};
  out["key"] = nullptr;
  if (heard.key) {
    Json alternatives = Json::array();
    for (const auto& a : heard.key->alternatives) alternatives.push_back(nameOf(a));
    out["key"] = {{"name", nameOf(heard.key->name)},
                  {"confidence", heard.key->confidence},
                  {"alternatives", alternatives},
                  {"tuningCents", heard.key->tuning.value}};
    if (!heard.key->mode.empty()) out["key"]["mode"] = heard.key->mode;
  }
  out["chords"] = Json::array();
  for (const auto& c : heard.chords)
    out["chords"].push_back(
        {{"startS", c.start.value}, {"endS", c.end.value}, {"name", c.name}, {"bass", c.bass}});
  out["onsets"] = Json::array();
  for (const auto& o : heard.onsets) {
    Json hits = Json::array();
    for (HitClass hit : o.hits) hits.push_back(nameOf(hit));
    out["onsets"].push_back({{"atS", o.at.value},
                             {"cutS", o.cut.value},
                             {"hits", hits},
                             {"sure", o.sure},
                             {"level", o.level.value},
                             {"brightnessHz", o.brightness.value},
                             {"decayMs", o.decay.value},
                             {"ringHz", o.ring.value},
                             {"group", o.group}});
  }
  out["sections"] = Json::array();
  for (const auto& s : heard.sections)
    out["sections"].push_back(
        {{"startS", s.start.value}, {"endS", s.end.value}, {"label", s.label}});
  out["loudness"] = {{"integratedLufs", finite(heard.loudness.integratedLufs)},
                     {"truePeakDbtp", finite(heard.loudness.truePeakDbtp)},
                     {"samplePeakDbfs", finite(heard.loudness.samplePeakDbfs)},
                     {"rangeLu", heard.loudness.rangeLu},
                     {"shortTermLufs", finite(heard.loudness.shortTermLufs)},
                     {"noiseFloorDbfs", finite(heard.loudness.noiseFloorDbfs)}};
  out["faults"] = Json::array();
  for (const auto& f : heard.faults)
    out["faults"].push_back({{"kind", f.kind}, {"figure", f.figure}, {"text", f.text}});
  return out;
}

Result<Listening> listeningFromJson(const nlohmann::ordered_json& json) {
  using namespace json_read;
  try {
    Listening heard;
    heard.duration = Seconds(number(json, "durationS", 0, 1e6, 0));
    heard.rate = Hertz(number(json, "sampleRate", 8000, 192000, 48000));
    heard.channels = int(integer(json, "channels", 1, 2, 1));
    heard.meter = int(integer(json, "meter", 2, 7, 4));
    heard.compound = text(json, "meterName").ends_with("/8");
    if (const Json* wow = find(json, "wow"))
      heard.wow = WowHeard{Hertz(number(*wow, "rateHz", 0, 100, 0)),
                           Cents(number(*wow, "depthCents", 0, 1200, 0))};
    if (const Json* root = find(json, "root"))
      heard.root = Hertz(number(*root, "hz", 0, 100000, 0));
    if (const Json* kind = find(json, "kind")) {
      const std::string name = text(*kind, "name");
      for (std::size_t k = 0; k < kSoundKinds; ++k)
        if (name == nameOf(SoundKind(k))) heard.kind.kind = SoundKind(k);
      heard.kind.confidence = number(*kind, "confidence", 0, 1, 0);
    }
    if (const Json* tempo = find(json, "tempo")) {
      TempoHeard t;
      t.bpm = Bpm(number(*tempo, "bpm", 10, 1000, 120));
      t.confidence = number(*tempo, "confidence", 0, 1, 0);
      for (const auto& v : list(*tempo, "curve", kTempoCurve))
        if (v.is_number()) t.curve.push_back(std::clamp(v.get<float>(), 0.0f, 10.0f));
      if (t.curve.size() != kTempoCurve) t.curve.clear();
      t.steady = flag(*tempo, "steady", true);
      t.drift = Milliseconds(number(*tempo, "driftMs", 0, 1e6, 0));
      for (const auto& a : list(*tempo, "alternatives", 16))
        t.alternatives.push_back({Bpm(number(a, "bpm", 10, 1000, 120)), text(a, "relation")});
      heard.tempo = std::move(t);
    }
    heard.beats = secondsFrom(json, "beatsS");
    heard.downbeats = secondsFrom(json, "downbeatsS");
    if (const Json* loop = find(json, "loop"))
      heard.loop = LoopHeard{int(integer(*loop, "bars", 1, 1024, 1)), flag(*loop, "exact")};
    if (const Json* key = find(json, "key")) {
      KeyHeard k;
      k.name = keyFrom(text(*key, "name", "C"));
      k.confidence = number(*key, "confidence", 0, 1, 0);
      k.tuning = Cents(number(*key, "tuningCents", -50, 50, 0));
      k.mode = text(*key, "mode");
      for (const auto& a : list(*key, "alternatives", 24))
        if (a.is_string()) k.alternatives.push_back(keyFrom(a.get<std::string>()));
      heard.key = std::move(k);
    }
    for (const auto& c : list(json, "chords", kMostEvents))
      heard.chords.push_back({Seconds(number(c, "startS", 0, 1e6, 0)),
                              Seconds(number(c, "endS", 0, 1e6, 0)), text(c, "name"),
                              text(c, "bass")});
    for (const auto& o : list(json, "onsets", kMostEvents)) {
      Onset onset;
      onset.at = Seconds(number(o, "atS", 0, 1e6, 0));
      onset.cut = Seconds(number(o, "cutS", 0, 1e6, 0));
      std::size_t hitClass = 0;
      for (const auto& sure : list(o, "sure", 4))
        if (sure.is_number()) onset.sure[hitClass++] = std::clamp(sure.get<double>(), 0.0, 1.0);
      onset.level = Decibels(number(o, "level", -200, 100, 0));
      onset.brightness = Hertz(number(o, "brightnessHz", 0, 100000, 0));
      onset.decay = Milliseconds(number(o, "decayMs", 0, 1e6, 0));
      onset.ring = Hertz(number(o, "ringHz", 0, 100000, 0));
      onset.group = int(integer(o, "group", 0, 100000, 0));
      for (const auto& name : list(o, "hits", 8))
        for (HitClass hit : {HitClass::Kick, HitClass::Snare, HitClass::Hat, HitClass::Other})
          if (name.is_string() && name.get<std::string>() == nameOf(hit)) onset.hits.push_back(hit);
      heard.onsets.push_back(std::move(onset));
    }
    for (const auto& s : list(json, "sections", 10000))
      heard.sections.push_back({Seconds(number(s, "startS", 0, 1e6, 0)),
                                Seconds(number(s, "endS", 0, 1e6, 0)), text(s, "label")});
    if (const Json* loudness = find(json, "loudness"))
      heard.loudness = {
          orSilence(*loudness, "integratedLufs"), orSilence(*loudness, "truePeakDbtp"),
          orSilence(*loudness, "samplePeakDbfs"), number(*loudness, "rangeLu", 0, 200, 0),
          orSilence(*loudness, "shortTermLufs"),  orSilence(*loudness, "noiseFloorDbfs")};
    for (const auto& f : list(json, "faults", 100))
      heard.faults.push_back({text(f, "kind"), number(f, "figure", -1e9, 1e9, 0), text(f, "text")});
    return heard;
  } catch (const Bad& bad) {
    return Error{"What was heard cannot be read: " + bad.what, "", "It will be listened to again."};
  }
}

} // namespace tuvvo
