#include "formats/analysis_json.h"

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

Json contentJson(const Content& content) {
  return {{"levelDb", content.level.value}, {"onsets", content.onsets}, {"drums", content.drums},
          {"lows", content.lows},           {"voices", content.voices}, {"tones", content.tones},
          {"changes", content.changes}};
}

std::vector<Seconds> secondsFrom(json_read::Fields& object, const char* name) {
  std::vector<Seconds> out;
  for (const auto& v : object.list(name, kMostEvents)) {
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

double orSilence(json_read::Fields& object, const char* name) {
  constexpr double silence = -std::numeric_limits<double>::infinity();
  return object.number(name, -1000, 1000, silence);
}

} // namespace

nlohmann::ordered_json toJson(const Analysis& heard) {
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
    out["chords"].push_back({{"startS", c.start.value},
                             {"endS", c.end.value},
                             {"name", c.name},
                             {"bass", c.bass},
                             {"confidence", c.confidence},
                             {"other", c.other}});
  out["onsets"] = Json::array();
  for (const auto& o : heard.onsets) {
    Json hits = Json::array(), levels = Json::array(), drums = Json::array();
    for (Drum drum : o.drums) drums.push_back(nameOf(drum));
    for (const Decibels& level : o.levels) levels.push_back(level.value);
    for (HitClass hit : o.hits) hits.push_back(nameOf(hit));
    out["onsets"].push_back({{"atS", o.at.value},
                             {"cutS", o.cut.value},
                             {"hits", hits},
                             {"sure", o.sure},
                             {"drums", drums},
                             {"level", o.level.value},
                             {"levels", levels},
                             {"brightnessHz", o.brightness.value},
                             {"decayMs", o.decay.value},
                             {"ringHz", o.ring.value},
                             {"group", o.group}});
  }
  out["sections"] = Json::array();
  for (const auto& s : heard.sections)
    out["sections"].push_back({{"startS", s.start.value},
                               {"endS", s.end.value},
                               {"label", s.label},
                               {"content", contentJson(s.content)}});
  out["content"] = contentJson(heard.content);
  out["loudness"] = {{"integratedLufs", finite(heard.loudness.integratedLufs)},
                     {"truePeakDbtp", finite(heard.loudness.truePeakDbtp)},
                     {"samplePeakDbfs", finite(heard.loudness.samplePeakDbfs)},
                     {"rangeLu", heard.loudness.rangeLu},
                     {"shortTermLufs", finite(heard.loudness.shortTermLufs)},
                     {"noiseFloorDbfs", finite(heard.loudness.noiseFloorDbfs)}};
  out["faults"] = Json::array();
  for (const auto& f : heard.faults)
    out["faults"].push_back({{"kind", f.kind}, {"figure", f.figure}, {"second", f.second}});
  return out;
}

namespace {

using namespace json_read;

Content readContent(Fields& of) {
  Content content;
  of.inside("content", [&](Fields& c) {
    content.level = Decibels(c.number("levelDb", -300, 300, 0));
    content.onsets = c.number("onsets", 0, 1e4, 0);
    content.drums = c.number("drums", 0, 1e4, 0);
    content.lows = c.number("lows", 0, 1, 0);
    content.voices = c.number("voices", 0, 1, 0);
    content.tones = c.number("tones", 0, 1, 0);
    content.changes = c.number("changes", 0, 1, 0);
  });
  return content;
}

TempoHeard readTempo(Fields& tempo, Reading& reading) {
  TempoHeard t;
  t.bpm = Bpm(tempo.number("bpm", 10, 1000, 120));
  t.confidence = tempo.number("confidence", 0, 1, 0);
  for (const auto& v : tempo.list("curve", kTempoCurve))
    if (v.is_number()) t.curve.push_back(std::clamp(v.get<float>(), 0.0f, 10.0f));
  if (t.curve.size() != kTempoCurve) t.curve.clear();
  t.steady = tempo.flag("steady", true);
  t.drift = Milliseconds(tempo.number("driftMs", 0, 1e6, 0));
  for (const auto& entry : tempo.list("alternatives", 16)) {
    Fields other(entry, reading);
    t.alternatives.push_back({Bpm(other.number("bpm", 10, 1000, 120)), other.text("relation")});
  }
  return t;
}

KeyHeard readKey(Fields& key) {
  KeyHeard k;
  k.name = keyFrom(key.text("name", "C"));
  k.confidence = key.number("confidence", 0, 1, 0);
  k.tuning = Cents(key.number("tuningCents", -50, 50, 0));
  k.mode = key.text("mode");
  for (const auto& a : key.list("alternatives", 24))
    if (a.is_string()) k.alternatives.push_back(keyFrom(a.get<std::string>()));
  return k;
}

Onset readOnset(const Json& json, Reading& reading) {
  Fields o(json, reading);
  Onset onset;
  onset.at = Seconds(o.number("atS", 0, 1e6, 0));
  onset.cut = Seconds(o.number("cutS", 0, 1e6, 0));
  std::size_t hitClass = 0;
  for (const auto& sure : o.list("sure", onset.sure.size()))
    if (sure.is_number()) onset.sure[hitClass++] = std::clamp(sure.get<double>(), 0.0, 1.0);
  for (const auto& name : o.list("drums", kDrums))
    for (std::size_t d = 0; d < kDrums; ++d)
      if (name.is_string() && name.get<std::string>() == nameOf(Drum(d)))
        onset.drums.push_back(Drum(d));
  onset.level = Decibels(o.number("level", -200, 100, 0));
  onset.levels.fill(onset.level); // where it was heard before they were
  std::size_t levelClass = 0;
  for (const auto& level : o.list("levels", onset.levels.size()))
    if (level.is_number())
      onset.levels[levelClass++] = Decibels(std::clamp(level.get<double>(), -200.0, 100.0));
  onset.brightness = Hertz(o.number("brightnessHz", 0, 100000, 0));
  onset.decay = Milliseconds(o.number("decayMs", 0, 1e6, 0));
  onset.ring = Hertz(o.number("ringHz", 0, 100000, 0));
  onset.group = int(o.integer("group", 0, 100000, 0));
  for (const auto& name : o.list("hits", 8))
    for (HitClass hit : {HitClass::Kick, HitClass::Snare, HitClass::Hat, HitClass::Other})
      if (name.is_string() && name.get<std::string>() == nameOf(hit)) onset.hits.push_back(hit);
  return onset;
}

} // namespace

Result<Analysis> analysisFromJson(const nlohmann::ordered_json& json) {
  using namespace json_read;
  try {
    Reading reading;
    Fields f(json, reading);
    Analysis heard;
    heard.duration = Seconds(f.number("durationS", 0, 1e6, 0));
    heard.rate = Hertz(f.number("sampleRate", 8000, 192000, 48000));
    heard.channels = int(f.integer("channels", 1, 2, 1));
    heard.meter = int(f.integer("meter", 2, 7, 4));
    heard.compound = f.text("meterName").ends_with("/8");
    f.inside("wow", [&](Fields& wow) {
      heard.wow = WowHeard{Hertz(wow.number("rateHz", 0, 100, 0)),
                           Cents(wow.number("depthCents", 0, 1200, 0))};
    });
    f.inside("root", [&](Fields& root) { heard.root = Hertz(root.number("hz", 0, 100000, 0)); });
    f.inside("kind", [&](Fields& kind) {
      const std::string name = kind.text("name");
      for (std::size_t k = 0; k < kSoundKinds; ++k)
        if (name == nameOf(SoundKind(k))) heard.kind.kind = SoundKind(k);
      heard.kind.confidence = kind.number("confidence", 0, 1, 0);
    });
    f.inside("tempo", [&](Fields& tempo) { heard.tempo = readTempo(tempo, reading); });
    heard.beats = secondsFrom(f, "beatsS");
    heard.downbeats = secondsFrom(f, "downbeatsS");
    f.inside("loop", [&](Fields& loop) {
      heard.loop = LoopHeard{int(loop.integer("bars", 1, 1024, 1)), loop.flag("exact")};
    });
    f.inside("key", [&](Fields& key) { heard.key = readKey(key); });
    for (const auto& entry : f.list("chords", kMostEvents)) {
      Fields c(entry, reading);
      heard.chords.push_back({Seconds(c.number("startS", 0, 1e6, 0)),
                              Seconds(c.number("endS", 0, 1e6, 0)), c.text("name"), c.text("bass"),
                              c.number("confidence", 0, 1, 1), c.text("other")});
    }
    for (const auto& entry : f.list("onsets", kMostEvents)) {
      heard.onsets.push_back(readOnset(entry, reading));
    }
    for (const auto& entry : f.list("sections", 10000)) {
      Fields s(entry, reading);
      heard.sections.push_back({Seconds(s.number("startS", 0, 1e6, 0)),
                                Seconds(s.number("endS", 0, 1e6, 0)), s.text("label"),
                                readContent(s)});
    }
    heard.content = readContent(f);
    f.inside("loudness", [&](Fields& loudness) {
      heard.loudness = {
          orSilence(loudness, "integratedLufs"), orSilence(loudness, "truePeakDbtp"),
          orSilence(loudness, "samplePeakDbfs"), loudness.number("rangeLu", 0, 200, 0),
          orSilence(loudness, "shortTermLufs"),  orSilence(loudness, "noiseFloorDbfs")};
    });
    for (const auto& entry : f.list("faults", 100)) {
      Fields fault(entry, reading);
      heard.faults.push_back({fault.text("kind"), fault.number("figure", -1e9, 1e9, 0),
                              fault.number("second", -1e9, 1e9, 0)});
    }
    // It is all or nothing: what is half understood is listened to again.
    if (reading.misread()) throw Bad{reading.text()};
    return heard;
  } catch (const Bad& bad) {
    return Error{"What was heard cannot be read: " + bad.what, "", "It will be listened to again."};
  }
}

} // namespace tuvvo
