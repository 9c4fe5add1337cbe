#include "formats/key_json.h"

#include "formats/json_names.h"
#include "formats/treatment_json.h"

namespace tuvvo {

using namespace json_read;

namespace {

constexpr std::array kLayerWays{"together", "by velocity", "in turn", "at random"};

/// @param usual  what is left out where it does not differ; times are always written
void write(Json& out, const Envelope& e, const Envelope& usual) {
  out["attackMs"] = e.attack.value;
  out["holdMs"] = e.hold.value;
  out["decayMs"] = e.decay.value;
  out["sustain"] = e.sustain;
  out["releaseMs"] = e.release.value;
  if (e.attackCurve != usual.attackCurve) out["attackCurve"] = e.attackCurve;
  if (e.decayCurve != usual.decayCurve) out["decayCurve"] = e.decayCurve;
  if (e.releaseCurve != usual.releaseCurve) out["releaseCurve"] = e.releaseCurve;
}

Envelope readEnvelope(const Json& json, Envelope e) {
  e.attack = Milliseconds(number(json, "attackMs", 0, 5000, e.attack.value));
  e.hold = Milliseconds(number(json, "holdMs", 0, 10000, e.hold.value));
  e.decay = Milliseconds(number(json, "decayMs", 0, 10000, e.decay.value));
  e.sustain = number(json, "sustain", 0, 1, e.sustain);
  e.release = Milliseconds(number(json, "releaseMs", 0, 10000, e.release.value));
  e.attackCurve = number(json, "attackCurve", -1, 1, e.attackCurve);
  e.decayCurve = number(json, "decayCurve", -1, 1, e.decayCurve);
  e.releaseCurve = number(json, "releaseCurve", -1, 1, e.releaseCurve);
  return e;
}

Json write(const LayerPlay& play) {
  Json out = Json::object();
  if (play.delay.value > 0) out["delayMs"] = play.delay.value;
  if (play.level.value != 0) out["levelDb"] = play.level.value;
  if (play.tune.value != 0) out["tuneSt"] = play.tune.value;
  if (play.upTo != 1) out["upTo"] = play.upTo;
  return out;
}

LayerPlay readLayerPlay(const Json& json) {
  LayerPlay play;
  play.delay = Milliseconds(number(json, "delayMs", 0, 500, 0));
  play.level = Decibels(number(json, "levelDb", -60, 12, 0));
  play.tune = Semitones(number(json, "tuneSt", -48, 48, 0));
  play.upTo = number(json, "upTo", 0.02, 1, 1);
  return play;
}

} // namespace

Json toJson(const Key& key) {
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
           {"gate", key.gate},
           {"choke", key.choke}};
  write(out, key.envelope, Envelope{});
  if (key.own != LayerPlay{}) out["own"] = write(key.own);
  for (const auto& layer : key.layers) {
    Json each{{"source", layer.sound.source}, {"cut", layer.sound.cut}};
    each.update(write(layer.play));
    out["layers"].push_back(std::move(each));
  }
  if (key.way != LayerWay::Together) out["layerWay"] = nameIn(kLayerWays, key.way);
  if (key.mono) out["mono"] = true;
  if (key.glide.value > 0) out["glideMs"] = key.glide.value;
  if (!key.legato) out["legato"] = false;
  if (key.quiet.muted) out["muted"] = true;
  if (key.quiet.solo) out["solo"] = true;
  if (key.trimStart.value > 0) out["trimStartMs"] = key.trimStart.value;
  if (key.trimEnd.value > 0) out["trimEndMs"] = key.trimEnd.value;
  if (key.method) out["method"] = nameIn(kMethods, *key.method);
  if (key.loop != SliceLoop{})
    out["loop"] = {{"on", key.loop.on},
                   {"from", key.loop.from},
                   {"to", key.loop.to},
                   {"crossfadeMs", key.loop.crossfade.value}};
  if (key.highPass.value > 0) out["highPassHz"] = key.highPass.value;
  if (key.lowPass.value > 0) out["lowPassHz"] = key.lowPass.value;
  if (key.resonance.value > 0) out["resonanceDb"] = key.resonance.value;
  if (const auto& f = key.filterEnvelope; f != FilterEnvelope{}) {
    Json each{{"lowOctaves", f.lowMoves}, {"highOctaves", f.highMoves}};
    write(each, f.shape, FilterEnvelope{}.shape);
    out["filterEnvelope"] = std::move(each);
  }
  if (!key.treatments.empty()) out["treatments"] = toJson(key.treatments);
  addUnknown(out, key.extra);
  return out;
}

Key keyFromJson(const Json& json) {
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
  key.envelope = readEnvelope(json, {});
  if (const Json* own = find(json, "own")) key.own = readLayerPlay(*own);
  for (const auto& each : list(json, "layers", kMostLayers - 1))
    key.layers.push_back({{idFrom(each, "source"), idFrom(each, "cut")}, readLayerPlay(each)});
  key.way = choice<LayerWay>(json, "layerWay", kLayerWays);
  key.mono = flag(json, "mono");
  key.glide = Milliseconds(number(json, "glideMs", 0, 2000, 0));
  key.legato = flag(json, "legato", true);
  key.quiet = {flag(json, "muted"), flag(json, "solo")};
  key.gate = flag(json, "gate");
  key.choke = int(integer(json, "choke", 0, 8, 0));
  key.trimStart = Milliseconds(number(json, "trimStartMs", 0, kMostTrim.value, 0));
  key.trimEnd = Milliseconds(number(json, "trimEndMs", 0, kMostTrim.value, 0));
  if (find(json, "method")) key.method = choice<FitMethod>(json, "method", kMethods);
  if (const Json* loop = find(json, "loop")) {
    key.loop.on = flag(*loop, "on");
    key.loop.from = number(*loop, "from", 0, 0.99, 0.25);
    key.loop.to = number(*loop, "to", key.loop.from + 0.01, 1, 1);
    key.loop.crossfade = Milliseconds(number(*loop, "crossfadeMs", 1, 500, 10));
  }
  key.highPass = Hertz(number(json, "highPassHz", 0, 20'000, 0));
  key.lowPass = Hertz(number(json, "lowPassHz", 0, 20'000, 0));
  for (Hertz* corner : {&key.highPass, &key.lowPass})
    if (corner->value < 20) corner->value = 0;
  key.resonance = Decibels(number(json, "resonanceDb", 0, 24, 0));
  if (const Json* f = find(json, "filterEnvelope")) {
    key.filterEnvelope.lowMoves = number(*f, "lowOctaves", -8, 8, 0);
    key.filterEnvelope.highMoves = number(*f, "highOctaves", -8, 8, 0);
    key.filterEnvelope.shape = readEnvelope(*f, FilterEnvelope{}.shape);
  }
  key.treatments = treatmentsFromJson(list(json, "treatments", kMostTreatments));
  // Cuts were numbered by hand before names made themselves; those numbers are no names.
  const bool older = !find(json, "holdMs");
  if (older && key.sound.cut != 0 &&
      std::all_of(key.name.begin(), key.name.end(), [](char c) { return c >= '0' && c <= '9'; }))
    key.name.clear();
  key.extra = unknownFields(
      json,
      {"id",         "row",          "column",     "page",      "name",        "source",
       "cut",        "part",         "levelDb",    "pan",       "tuneSt",      "fineCt",
       "attackMs",   "holdMs",       "decayMs",    "sustain",   "releaseMs",   "attackCurve",
       "decayCurve", "releaseCurve", "gate",       "choke",     "method",      "trimStartMs",
       "trimEndMs",  "loop",         "highPassHz", "lowPassHz", "resonanceDb", "filterEnvelope",
       "treatments", "own",          "layers",     "layerWay",  "mono",        "glideMs",
       "legato",     "muted",        "solo"});
  return key;
}

} // namespace tuvvo
