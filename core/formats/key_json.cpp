#include "formats/key_json.h"

#include "formats/file_range.h"
#include "formats/json_names.h"
#include "formats/treatment_json.h"
#include "model/key_parameters.h"

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

FileRange rangeOf(const char* id, double per = 1) { return FileRange(findKeyParameter(id), per); }

/// The bends are those of a key's own envelope: its filters' has none to turn.
struct EnvelopeRanges {
  FileRange attack, hold, decay, sustain, release;
  FileRange attackCurve = rangeOf("key.attack-bend", 100),
            decayCurve = rangeOf("key.decay-bend", 100),
            releaseCurve = rangeOf("key.release-bend", 100);
};

struct KeyRanges {
  FileRange level = rangeOf("key.level"), pan = rangeOf("key.pan", 100), tune = rangeOf("key.tune"),
            fine = rangeOf("key.fine"), glide = rangeOf("key.glide"),
            highPass = rangeOf("key.high-pass"), lowPass = rangeOf("key.low-pass"),
            resonance = rangeOf("key.resonance"), lowMoves = rangeOf("key.low-pass-moves"),
            highMoves = rangeOf("key.high-pass-moves");
  FileRange layerDelay = rangeOf("layer.delay"), layerLevel = rangeOf("layer.level"),
            layerTune = rangeOf("layer.tune"), layerUpTo = rangeOf("layer.up-to", 100),
            layerAttack = rangeOf("layer.attack"), layerDecay = rangeOf("layer.decay");
  EnvelopeRanges own{rangeOf("key.attack"), rangeOf("key.hold"), rangeOf("key.decay"),
                     rangeOf("key.sustain", 100), rangeOf("key.release")};
  EnvelopeRanges ofFilters{rangeOf("key.filter-attack"), rangeOf("key.filter-hold"),
                           rangeOf("key.filter-decay"), rangeOf("key.filter-sustain", 100),
                           rangeOf("key.filter-release")};
};

const KeyRanges& ranges() {
  static const KeyRanges all;
  return all;
}

Envelope readEnvelope(Fields& json, const EnvelopeRanges& in, Envelope e) {
  e.attack = Milliseconds(in.attack.in(json, "attackMs", e.attack.value));
  e.hold = Milliseconds(in.hold.in(json, "holdMs", e.hold.value));
  e.decay = Milliseconds(in.decay.in(json, "decayMs", e.decay.value));
  e.sustain = in.sustain.in(json, "sustain", e.sustain);
  e.release = Milliseconds(in.release.in(json, "releaseMs", e.release.value));
  e.attackCurve = in.attackCurve.in(json, "attackCurve", e.attackCurve);
  e.decayCurve = in.decayCurve.in(json, "decayCurve", e.decayCurve);
  e.releaseCurve = in.releaseCurve.in(json, "releaseCurve", e.releaseCurve);
  return e;
}

/// Under the lowest corner that can be set it is off.
Hertz readCorner(Fields& json, const char* name, const FileRange& range) {
  const double corner = json.number(name, 0, range.most(), 0);
  return Hertz(corner < range.least() ? 0 : corner);
}

Json write(const LayerPlay& play) {
  Json out = Json::object();
  if (play.delay.value > 0) out["delayMs"] = play.delay.value;
  if (play.level.value != 0) out["levelDb"] = play.level.value;
  if (play.tune.value != 0) out["tuneSt"] = play.tune.value;
  if (play.upTo != 1) out["upTo"] = play.upTo;
  if (play.highPass.value > 0) out["highPassHz"] = play.highPass.value;
  if (play.lowPass.value > 0) out["lowPassHz"] = play.lowPass.value;
  if (play.attack.value > 0) out["attackMs"] = play.attack.value;
  if (play.decay.value > 0) out["decayMs"] = play.decay.value;
  if (play.inverted) out["inverted"] = true;
  return out;
}

LayerPlay readLayerPlay(Fields& json) {
  LayerPlay play;
  play.delay = Milliseconds(ranges().layerDelay.in(json, "delayMs"));
  play.level = Decibels(ranges().layerLevel.in(json, "levelDb"));
  play.tune = Semitones(ranges().layerTune.in(json, "tuneSt"));
  play.upTo = ranges().layerUpTo.in(json, "upTo");
  play.highPass = readCorner(json, "highPassHz", ranges().highPass);
  play.lowPass = readCorner(json, "lowPassHz", ranges().lowPass);
  play.attack = Milliseconds(ranges().layerAttack.in(json, "attackMs"));
  play.decay = Milliseconds(ranges().layerDecay.in(json, "decayMs"));
  play.inverted = json.flag("inverted");
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
  key.level = Decibels(ranges().level.in(f, "levelDb"));
  key.pan = ranges().pan.in(f, "pan");
  key.tune = Semitones(ranges().tune.in(f, "tuneSt"));
  key.fine = Cents(ranges().fine.in(f, "fineCt"));
  key.envelope = readEnvelope(f, ranges().own, {});
  f.inside("own", [&](Fields& own) { key.own = readLayerPlay(own); });
  f.entries("layers", kMostLayers - 1,
            [&](const Json& each) { key.layers.push_back(readLayer(each, reading)); });
  key.mode = f.choice<LayerMode>("layerWay", kLayerModes);
  key.mono = f.flag("mono");
  key.glide = Milliseconds(ranges().glide.in(f, "glideMs"));
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
  key.highPass = readCorner(f, "highPassHz", ranges().highPass);
  key.lowPass = readCorner(f, "lowPassHz", ranges().lowPass);
  key.resonance = Decibels(ranges().resonance.in(f, "resonanceDb"));
  f.inside("filterEnvelope", [&](Fields& moves) {
    key.filterEnvelope.lowMoves = ranges().lowMoves.in(moves, "lowOctaves");
    key.filterEnvelope.highMoves = ranges().highMoves.in(moves, "highOctaves");
    key.filterEnvelope.shape = readEnvelope(moves, ranges().ofFilters, FilterEnvelope{}.shape);
  });
  readTreatments(f, key.treatments);
  key.extra = f.rest([&] { return toJson(key); });
  return key;
}

} // namespace tuvvo
