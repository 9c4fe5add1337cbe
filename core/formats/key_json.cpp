#include "formats/key_json.h"

#include "formats/json_names.h"
#include "formats/treatment_json.h"

namespace tuvvo {

using namespace json_read;

namespace {

constexpr std::array kLayerModes{"together", "by velocity", "in turn", "at random"};

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

Envelope readEnvelope(Fields& json, Envelope e) {
  e.attack = Milliseconds(json.number("attackMs", 0, 5000, e.attack.value));
  e.hold = Milliseconds(json.number("holdMs", 0, 10000, e.hold.value));
  e.decay = Milliseconds(json.number("decayMs", 0, 10000, e.decay.value));
  e.sustain = json.number("sustain", 0, 1, e.sustain);
  e.release = Milliseconds(json.number("releaseMs", 0, 10000, e.release.value));
  e.attackCurve = json.number("attackCurve", -1, 1, e.attackCurve);
  e.decayCurve = json.number("decayCurve", -1, 1, e.decayCurve);
  e.releaseCurve = json.number("releaseCurve", -1, 1, e.releaseCurve);
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

LayerPlay readLayerPlay(Fields& json) {
  LayerPlay play;
  play.delay = Milliseconds(json.number("delayMs", 0, 500, 0));
  play.level = Decibels(json.number("levelDb", -60, 12, 0));
  play.tune = Semitones(json.number("tuneSt", -48, 48, 0));
  play.upTo = json.number("upTo", 0.02, 1, 1);
  return play;
}

Json write(const Layer& layer) {
  Json out{{"source", layer.sound.source}, {"cut", layer.sound.cut}};
  out.update(write(layer.play));
  addRest(out, layer.extra);
  return out;
}

Layer readLayer(const Json& json, Reading& reading) {
  Fields fields(json, reading);
  Layer layer;
  layer.sound = {idFrom(fields, "source"), idFrom(fields, "cut")};
  layer.play = readLayerPlay(fields);
  layer.extra = fields.rest([&] { return write(layer); });
  return layer;
}

/// A word where there is one; what is on no known row, or of no known part, is no key that can lie
/// anywhere.
Row rowOf(Fields& fields) {
  const auto row = fields.choiceIf<Row>("row", kRows);
  if (!row && fields.find("row")) throw Bad{""}; // it was told already
  return row.value_or(Row::Cuts);
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
    out["layers"].push_back(write(layer));
  }
  if (key.mode != LayerMode::Together) out["layerWay"] = nameIn(kLayerModes, key.mode);
  if (key.mono) out["mono"] = true;
  if (key.glide.value > 0) out["glideMs"] = key.glide.value;
  if (!key.legato) out["legato"] = false;
  if (key.muteSolo.muted) out["muted"] = true;
  if (key.muteSolo.solo) out["solo"] = true;
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
  addRest(out, key.extra);
  return out;
}

Key keyFromJson(const Json& json, Reading& reading) {
  Fields f(json, reading);
  Key key;
  key.id = idFrom(f);
  key.row = rowOf(f);
  key.column = int(f.integer("column", 0, kColumns - 1, 0));
  key.page = int(f.integer("page", 0, 4095, 0));
  key.name = f.text("name");
  key.sound = {idFrom(f, "source"), idFrom(f, "cut")};
  key.part = idFrom(f, "part");
  key.level = Decibels(f.number("levelDb", -60, 12, 0));
  key.pan = f.number("pan", -1, 1, 0);
  key.tune = Semitones(f.number("tuneSt", -48, 48, 0));
  key.fine = Cents(f.number("fineCt", -100, 100, 0));
  key.envelope = readEnvelope(f, {});
  f.inside("own", [&](Fields& own) { key.own = readLayerPlay(own); });
  f.entries("layers", kMostLayers - 1,
            [&](const Json& each) { key.layers.push_back(readLayer(each, reading)); });
  key.mode = f.choice<LayerMode>("layerWay", kLayerModes);
  key.mono = f.flag("mono");
  key.glide = Milliseconds(f.number("glideMs", 0, 2000, 0));
  key.legato = f.flag("legato", true);
  key.muteSolo = {f.flag("muted"), f.flag("solo")};
  key.gate = f.flag("gate");
  key.choke = int(f.integer("choke", 0, 8, 0));
  key.trimStart = Milliseconds(f.number("trimStartMs", 0, kMostTrim.value, 0));
  key.trimEnd = Milliseconds(f.number("trimEndMs", 0, kMostTrim.value, 0));
  key.method = f.choiceIf<FitMethod>("method", kMethods);
  f.inside("loop", [&](Fields& loop) {
    key.loop.on = loop.flag("on");
    key.loop.from = loop.number("from", 0, 0.99, 0.25);
    key.loop.to = loop.number("to", key.loop.from + 0.01, 1, 1);
    key.loop.crossfade = Milliseconds(loop.number("crossfadeMs", 1, 500, 10));
  });
  key.highPass = Hertz(f.number("highPassHz", 0, 20'000, 0));
  key.lowPass = Hertz(f.number("lowPassHz", 0, 20'000, 0));
  for (Hertz* corner : {&key.highPass, &key.lowPass})
    if (corner->value < 20) corner->value = 0;
  key.resonance = Decibels(f.number("resonanceDb", 0, 24, 0));
  f.inside("filterEnvelope", [&](Fields& moves) {
    key.filterEnvelope.lowMoves = moves.number("lowOctaves", -8, 8, 0);
    key.filterEnvelope.highMoves = moves.number("highOctaves", -8, 8, 0);
    key.filterEnvelope.shape = readEnvelope(moves, FilterEnvelope{}.shape);
  });
  readTreatments(f, key.treatments);
  key.extra = f.rest([&] { return toJson(key); });
  return key;
}

} // namespace tuvvo
